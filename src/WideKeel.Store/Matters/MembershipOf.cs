using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using WideKeel.Core.Matters;
using WideKeel.Core.People;

namespace WideKeel.Store.Matters;

/// <summary>
/// Which matters a person is a member of. Groups nest, and may even nest in circles, so this is one recursive query.
/// </summary>
public static class MembershipOf
{
    /// <param name="mail">By which the directory knows the person.</param>
    /// <returns>Matter id → the highest part held.</returns>
    public static async Task<Dictionary<long, MemberPart>> MattersAsync(WideKeelDb db, long person, string mail)
    {
        // A group lets in only those who may open matters: who fills it need not know of the matter.
        var byGroup = (await db.Remits.Where(r => r.PersonId == person).Select(r => r.Role).ToListAsync()).Any(r =>
            RightsPolicy.Grant(r, Right.OpenMatters)
        );
        await db.Database.OpenConnectionAsync();
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        command.CommandText = """
            WITH RECURSIVE mine(GroupId) AS (
                SELECT m.GroupId FROM directory_membership m JOIN directory_person p ON p.Id = m.PersonId
                WHERE p.Mail = $mail COLLATE NOCASE
                UNION SELECT m.GroupId FROM directory_membership m JOIN mine ON m.SubgroupId = mine.GroupId)
            SELECT m.MatterId, m.Part FROM matter_member m WHERE m.PersonId = $person
                OR ($byGroup AND m.GroupId IN (SELECT GroupId FROM mine))
            """;
        command.Transaction = (SqliteTransaction?)db.Database.CurrentTransaction?.GetDbTransaction();
        command.Parameters.AddWithValue("$mail", mail);
        command.Parameters.AddWithValue("$person", person);
        command.Parameters.AddWithValue("$byGroup", byGroup);
        using var reader = await command.ExecuteReaderAsync();
        Dictionary<long, MemberPart> matters = [];
        while (reader.Read())
        {
            var (matter, part) = (reader.GetInt64(0), Enum.Parse<MemberPart>(reader.GetString(1)));
            matters[matter] = matters.TryGetValue(matter, out var known) && known > part ? known : part;
        }

        return matters;
    }
}
