using System.Data.Common;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Core.Time;

namespace WideKeel.Store.People;

/// <summary>
/// What every request asks of the account behind it, in one command of four statements: this is read before anything else,
/// each time, so that a right taken away is gone at once.
/// </summary>
/// <param name="Stamp">Changes with the password.</param>
/// <param name="SessionId">The browser's session that is open, by its hash; null where there is none.</param>
/// <param name="HasLeft">As the directory knows the person; false where it does not.</param>
/// <param name="HasFactor">One-time codes are set up.</param>
/// <param name="FactorRoles">The roles that need them, as the organisation stores them.</param>
/// <param name="Selves">The person, and whose account the person made or reset, or who made or reset theirs.</param>
/// <param name="Units">Paths by id.</param>
public sealed record AccountFacts(
    long Id,
    string Name,
    string Mail,
    string Stamp,
    long? SessionId,
    bool HasLeft,
    bool HasFactor,
    string FactorRoles,
    IReadOnlyList<Remit> Remits,
    IReadOnlyCollection<long> Selves,
    IReadOnlyDictionary<long, UnitPath> Units
)
{
    private const string Sql = """
        SELECT p.DisplayName, COALESCE(p.Email, ''), COALESCE(p.SecurityStamp, ''),
            (SELECT s.Id FROM sign_in_session s WHERE s.Hash = $session AND s.PersonId = p.Id AND s.EndedAt IS NULL),
            d.Suspended, d.RemovedAt IS NOT NULL, d.LeavesOn,
            EXISTS (SELECT 1 FROM authenticator a WHERE a.PersonId = p.Id AND a.ConfirmedAt IS NOT NULL),
            (SELECT o.FactorRoles FROM organisation o)
        FROM person p LEFT JOIN directory_person d ON d.Mail = p.Email
        WHERE p.Id = $id AND p.Active;
        SELECT r.Role, u.Path FROM remit r JOIN unit u ON u.Id = r.UnitId WHERE r.PersonId = $id ORDER BY r.Id;
        SELECT p.Id, p.PasswordSetById FROM person p
        WHERE p.PasswordSetById IS NOT NULL AND (p.Id = $id OR p.PasswordSetById = $id);
        SELECT u.Id, u.Path FROM unit u
        """;

    /// <param name="sessionHash">SHA-256 of the session's word; empty where a key asks.</param>
    /// <returns>Null for an account that does not exist or is switched off.</returns>
    public static async Task<AccountFacts?> LoadAsync(WideKeelDb db, long id, string sessionHash, LocalDate today)
    {
        await db.Database.OpenConnectionAsync();
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        command.CommandText = Sql;
        command.Transaction = (SqliteTransaction?)db.Database.CurrentTransaction?.GetDbTransaction();
        command.Parameters.AddWithValue("$id", id);
        command.Parameters.AddWithValue("$session", sessionHash);
        using var reader = await command.ExecuteReaderAsync();
        if (!reader.Read())
        {
            return null;
        }

        var account = new AccountFacts(
            id,
            reader.GetString(0),
            reader.GetString(1),
            reader.GetString(2),
            reader.IsDBNull(3) ? null : reader.GetInt64(3),
            !reader.IsDBNull(4) && Listed(reader).HasLeft(today),
            reader.GetBoolean(7),
            reader.IsDBNull(8) ? "" : reader.GetString(8),
            [],
            [],
            new Dictionary<long, UnitPath>()
        );
        reader.NextResult();
        List<Remit> remits = [];
        while (reader.Read())
        {
            // A role that this version does not know gives nothing.
            if (Enum.TryParse<Role>(reader.GetString(0), out var role) && Enum.IsDefined(role))
            {
                remits.Add(new(role, new(reader.GetString(1))));
            }
        }

        reader.NextResult();
        HashSet<long> selves = [id];
        while (reader.Read())
        {
            selves.UnionWith([reader.GetInt64(0), reader.GetInt64(1)]);
        }

        reader.NextResult();
        Dictionary<long, UnitPath> units = [];
        while (reader.Read())
        {
            units[reader.GetInt64(0)] = new(reader.GetString(1));
        }

        return account with
        {
            Remits = remits,
            Selves = selves,
            Units = units,
        };
    }

    private static DirectoryPerson Listed(DbDataReader reader) =>
        new()
        {
            Name = "",
            Mail = "",
            Suspended = reader.GetBoolean(4),
            RemovedAt = reader.GetBoolean(5) ? Instant.MinValue : null,
            LeavesOn = reader.IsDBNull(6) ? null : DayNumber.ToDate(reader.GetInt32(6)),
        };
}
