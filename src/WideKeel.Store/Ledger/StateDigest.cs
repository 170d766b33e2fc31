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

    /// <summary>
    /// Name, table, the columns that are digested, and the entries that can have changed them, as kind and verb. Only these
    /// excuse a difference: people sign in every day, and a role that was given by SQL does not hide behind that.
    /// </summary>
    private static readonly (string Name, string Table, string Columns, string[] By)[] Parts =
    [
        (
            "person",
            "person",
            "Id, DisplayName, NormalizedEmail, Active",
            ["person:person-added", "person:person-changed"]
        ),
        (
            "password",
            "person",
            "Id, PasswordHash",
            ["person:person-added", "person:password-reset", "person:password-chosen", "person:password-hashed-anew"]
        ),
        (
            "authenticator",
            "authenticator",
            "PersonId, Key, ConfirmedAt",
            ["person:one-time-codes-begun", "person:one-time-codes-turned-on", "person:one-time-codes-turned-off"]
        ),
        (
            "recovery_code",
            "recovery_code",
            "PersonId, Hash",
            [
                "person:one-time-codes-turned-on",
                "person:one-time-codes-turned-off",
                "person:recovery-codes-renewed",
                "person:recovery-code-used",
            ]
        ),
        ("remit", "remit", "PersonId, Role, UnitId", ["person:person-added", "person:person-changed"]),
        ("unit", "unit", "Id, ParentId, Name, Path", ["unit:unit-added", "organisation:set-up"]),
        (
            "series",
            "series",
            "Id, Code, UnitId, State, VersionInForce, InForce, EffectById, EffectWithId",
            ["series:drafted", "series:put-into-effect", "series:retired", "series:series-dropped"]
        ),
        (
            "blanket",
            "blanket",
            "Id, Name, UnitId, State, InForce, EffectById, EffectWithId",
            ["blanket:drafted", "blanket:put-into-effect", "blanket:retired", "blanket:blanket-dropped"]
        ),
        (
            "proposal",
            "proposal",
            "Id, Kind, Act, RestsOn, Digest, AskedById, State",
            ["proposal:asked-second-person", "proposal:agreed", "proposal:declined", "proposal:closed"]
        ),
        (
            "filing_rule",
            "filing_rule",
            "Id, SeriesId, Priority, State, Definition",
            ["filing-rule:added", "filing-rule:changed", "filing-rule:put-into-effect", "filing-rule:stopped"]
        ),
        (
            "hold_order",
            "hold_order",
            "Id, MatterId, State, InForce",
            [
                "matter:order-drafted",
                "matter:order-draft-dropped",
                "matter:order-in-force",
                "matter:released",
                "matter:release-undone",
                "matter:matter-deleted",
                "matter:matter-content-removed",
            ]
        ),
        (
            "matter_member",
            "matter_member",
            "MatterId, PersonId, GroupId, Part",
            [
                "matter:matter-opened",
                "matter:joined",
                "matter:member-added",
                "matter:member-changed",
                "matter:member-removed",
            ]
        ),
        (
            "organisation",
            "organisation",
            "Id, Name, Zone, FiscalYearEnd, WormEnabledAt, SmtpHost, MailFrom, ActsNeedSecond, FactorRoles, InnerNetworks",
            [
                "organisation:set-up",
                "organisation:changed",
                "organisation:worm-enabled",
                "organisation:factor-roles-set",
                "organisation:inner-networks-set",
            ]
        ),
        (
            "api_key",
            "api_key",
            "Id, PersonId, Hash, Scopes, ExpiresAt, RevokedAt",
            ["api-key:key-issued", "api-key:key-revoked", "person:password-reset"]
        ),
        (
            "webhook",
            "webhook",
            "Id, Url, Secret, Active",
            ["organisation:webhook-added", "organisation:webhook-changed", "organisation:webhook-removed"]
        ),
        (
            "connection",
            "connection",
            "Id, Kind, Address, Secret",
            ["connection:connected", "connection:changed", "connection:disconnected"]
        ),
        (
            "channel",
            "channel",
            "Id, Name, OpenToAnalysts, KeyHash, Folder, Port, Retention",
            ["channel:connected", "channel:changed", "channel:key-made"]
        ),
        ("channel_reader", "channel_reader", "ChannelId, PersonId", ["channel:connected", "channel:changed"]),
    ];

    /// <summary>The digest of now: SHA-256 by table, lower-case hex.</summary>
    public static JsonObject Of(SqliteConnection connection)
    {
        var digest = new JsonObject();
        foreach (var part in Parts)
        {
            digest[part.Name] = HashOf(connection, part.Table, part.Columns);
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
        foreach (var part in Parts)
        {
            if (
                (string?)digest[part.Name] is { } then
                && then != HashOf(connection, part.Table, part.Columns)
                && !HasEntry(connection, sequence, part.By)
            )
            {
                return $"Rows of “{part.Name}” were changed after entry {sequence.ToString(CultureInfo.InvariantCulture)}, "
                    + "and no entry since says so: another program wrote them.";
            }
        }

        return null;
    }

    private static bool HasEntry(SqliteConnection connection, long after, string[] by)
    {
        using var command = connection.CreateCommand();
        command.CommandText =
            "SELECT EXISTS (SELECT 1 FROM ledger WHERE Sequence > $after "
            + "AND SubjectKind || ':' || Verb IN (SELECT value FROM json_each($by)))";
        command.Parameters.AddWithValue("$after", after);
        command.Parameters.AddWithValue("$by", new JsonArray([.. by.Select(k => (JsonNode)k)]).ToJsonString());
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
