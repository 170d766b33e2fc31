using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;

namespace WideKeel.Store.Ledger;

/// <summary>
/// What decides who may do what, and what is kept, as one hash a table: an entry of the ledger holds it once a day. A row
/// that was changed by another program, with no entry since that could have changed it, is found by it.
/// </summary>
public static class StateDigest
{
    public const string Verb = "state-digested";

    /// <summary>Table, the columns that are digested, and the kinds of subject whose entries may change it.</summary>
    private static readonly (string Table, string Columns, string[] Kinds)[] Tables =
    [
        ("person", "Id, DisplayName, NormalizedEmail, Active, PasswordHash", ["person"]),
        ("remit", "PersonId, Role, UnitId", ["person"]),
        ("unit", "Id, ParentId, Name, Path", ["unit", "organisation"]),
        ("series", "Id, Code, UnitId, State, VersionInForce, InForce", ["series", "schedule", "proposal"]),
        ("blanket", "Id, Name, UnitId, State, InForce", ["blanket", "schedule", "proposal"]),
        ("filing_rule", "Id, SeriesId, Priority, State, Definition", ["filing-rule"]),
        ("hold_order", "Id, MatterId, State, InForce", ["matter"]),
        ("matter_member", "MatterId, PersonId, GroupId, Part", ["matter"]),
        ("organisation", "Id, Name, Zone, FiscalYearEnd, WormEnabledAt, SmtpHost, MailFrom", ["organisation"]),
    ];

    /// <summary>The digest of now: SHA-256 by table, lower-case hex.</summary>
    public static JsonObject Of(SqliteConnection connection)
    {
        var digest = new JsonObject();
        foreach (var (table, columns, _) in Tables)
        {
            digest[table] = HashOf(connection, table, columns);
        }

        return digest;
    }

    /// <summary>The table that differs from the latest digest without an entry that could have changed it; else null.</summary>
    public static string? Check(SqliteConnection connection)
    {
        using var latest = connection.CreateCommand();
        latest.CommandText = "SELECT Sequence, Body FROM ledger WHERE Verb = $verb ORDER BY Sequence DESC LIMIT 1";
        latest.Parameters.AddWithValue("$verb", Verb);
        using var reader = latest.ExecuteReader();
        if (!reader.Read())
        {
            return null;
        }

        var (sequence, digest) = (reader.GetInt64(0), JsonNode.Parse(reader.GetString(1))!["after"]!);
        foreach (var (table, columns, kinds) in Tables)
        {
            if (
                (string?)digest[table] is { } then
                && then != HashOf(connection, table, columns)
                && !HasEntry(connection, sequence, kinds)
            )
            {
                return $"Rows of “{table}” were changed after entry {sequence.ToString(CultureInfo.InvariantCulture)}, "
                    + "and no entry since says so: another program wrote them.";
            }
        }

        return null;
    }

    private static bool HasEntry(SqliteConnection connection, long after, string[] kinds)
    {
        using var command = connection.CreateCommand();
        command.CommandText =
            "SELECT EXISTS (SELECT 1 FROM ledger WHERE Sequence > $after AND SubjectKind IN (SELECT value FROM json_each($kinds)))";
        command.Parameters.AddWithValue("$after", after);
        command.Parameters.AddWithValue("$kinds", new JsonArray([.. kinds.Select(k => (JsonNode)k)]).ToJsonString());
        return (long)command.ExecuteScalar()! == 1;
    }

    private static string HashOf(SqliteConnection connection, string table, string columns)
    {
        using var command = connection.CreateCommand();
        // Names are our own text. The hash goes by the rows in the order of all columns, each cell with its type.
        command.CommandText = $"SELECT {columns} FROM {table} ORDER BY {columns}";
        using var reader = command.ExecuteReader();
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        while (reader.Read())
        {
            for (var i = 0; i < reader.FieldCount; i++)
            {
                var cell = reader.GetValue(i);
                var text =
                    cell is DBNull ? "n" : string.Create(CultureInfo.InvariantCulture, $"{cell.GetType().Name}:{cell}");
                hash.AppendData(
                    Encoding.UTF8.GetBytes(string.Create(CultureInfo.InvariantCulture, $"{text.Length}:{text}"))
                );
            }

            hash.AppendData("\n"u8);
        }

        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }
}
