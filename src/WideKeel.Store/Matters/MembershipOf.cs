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
    private static readonly string MayOpen = string.Join(
        ", ",
        Enum.GetValues<Role>().Where(r => RightsPolicy.Grant(r, Right.OpenMatters)).Select(r => $"'{r}'")
    );

    /// <param name="mail">By which the directory knows the person.</param>
    /// <returns>Matter id → the highest part held.</returns>
    public static async Task<Dictionary<long, MemberPart>> MattersAsync(WideKeelDb db, long person, string mail)
    {
        await db.Database.OpenConnectionAsync();
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        // A group lets in only those who may open matters: who fills it need not know of the matter.
        command.CommandText = $"""
            WITH RECURSIVE mine(GroupId) AS (
                SELECT m.GroupId FROM directory_membership m JOIN directory_person p ON p.Id = m.PersonId
                WHERE p.Mail = $mail COLLATE NOCASE
                UNION SELECT m.GroupId FROM directory_membership m JOIN mine ON m.SubgroupId = mine.GroupId)
            SELECT m.MatterId, m.Part FROM matter_member m WHERE m.PersonId = $person
                OR (m.GroupId IN (SELECT GroupId FROM mine)
                    AND EXISTS (SELECT 1 FROM remit r WHERE r.PersonId = $person AND r.Role IN ({MayOpen})))
            """;
        command.Transaction = (SqliteTransaction?)db.Database.CurrentTransaction?.GetDbTransaction();
        command.Parameters.AddWithValue("$mail", mail);
        command.Parameters.AddWithValue("$person", person);
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
