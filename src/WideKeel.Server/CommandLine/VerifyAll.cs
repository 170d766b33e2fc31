using System.Security.Cryptography;
using Microsoft.Data.Sqlite;
using WideKeel.Core.AtRest;
using WideKeel.Server.Activity;
using WideKeel.Sources;
using WideKeel.Store.Activity;
using WideKeel.Store.Ledger;

namespace WideKeel.Server.CommandLine;

/// <summary>
/// Looks at everything that the product keeps beside its database, and says of each kind how much was looked at and what is
/// wrong. It writes nothing, so it can run beside the server.
/// </summary>
internal sealed class VerifyAll(WideKeelOptions options, RestKeyring keyring, TextWriter output)
{
    /// <summary>What plain <c>verify</c> leaves out.</summary>
    public const string NotLookedAt =
        "Not looked at: sealed segments, safekeeping, evidence files, bundles. Use --all to verify them too.";

    /// <returns>How many findings there are.</returns>
    public async Task<int> RunAsync(CancellationToken cancel)
    {
        await using var connection = new SqliteConnection(
            new SqliteConnectionStringBuilder
            {
                DataSource = options.DatabaseFile,
                Mode = SqliteOpenMode.ReadOnly,
                Pooling = false,
            }.ToString()
        );
        await connection.OpenAsync(cancel);
        return Segments(connection)
            + await SafekeepingAsync(connection, cancel)
            + await EvidenceAsync(connection, cancel)
            + await BundlesAsync(cancel);
    }

    private int Segments(SqliteConnection connection)
    {
        var open = Directory.CreateTempSubdirectory("wide-keel-").FullName;
        try
        {
            var report = SegmentVerifier.Verify(
                new ArchiveFiles(options.ArchiveFolder, open, keyring),
                LedgerReader.Entries(connection).Select(e => e.Body)
            );
            return Say("Sealed segments", Wording.Plural(report.Files, "file"), report.Findings);
        }
        finally
        {
            Directory.Delete(open, recursive: true);
        }
    }

    private async Task<int> SafekeepingAsync(SqliteConnection connection, CancellationToken cancel)
    {
        var safekeeping = new Safekeeping(options.SafekeepingFolder, keyring);
        var hashes = Column(connection, "SELECT DISTINCT Hash FROM item_copy ORDER BY Hash");
        List<string> findings = [];
        foreach (var hash in hashes)
        {
            if (await safekeeping.FaultAsync(hash, cancel) is { } fault)
            {
                findings.Add($"{hash}: {fault}");
            }
        }

        return Say("Safekeeping", Wording.Plural(hashes.Count, "copy", "copies"), findings);
    }

    /// <summary>Each file is named by its hash; each that a row names is there.</summary>
    private async Task<int> EvidenceAsync(SqliteConnection connection, CancellationToken cancel)
    {
        var named = Column(
            connection,
            """
            SELECT Hash FROM part_proof WHERE FileName <> '' UNION SELECT FileHash FROM policy_version WHERE FileHash <> ''
            UNION SELECT Hash FROM register_document UNION SELECT Hash FROM assurance_document WHERE WithdrawnAt IS NULL
            ORDER BY 1
            """
        );
        List<string> findings = [];
        foreach (var hash in named)
        {
            var file = Path.Combine(options.EvidenceFolder, hash);
            if (!File.Exists(file))
            {
                findings.Add($"{hash}: the file is missing.");
                continue;
            }

            await using var stream = File.OpenRead(file);
            var now = Convert.ToHexStringLower(await SHA256.HashDataAsync(stream, cancel));
            if (now != hash)
            {
                findings.Add($"{hash}: the file holds something else now: its SHA-256 is {now}.");
            }
        }

        return Say("Evidence", Wording.Plural(named.Count, "file"), findings);
    }

    private async Task<int> BundlesAsync(CancellationToken cancel)
    {
        var folder = Path.Combine(options.DataFolder, "bundles");
        var bags = Directory.Exists(folder)
            ? Directory.GetDirectories(folder).Order(StringComparer.Ordinal).ToList()
            : [];
        List<string> findings = [];
        foreach (var bag in bags)
        {
            // One without a manifest is being made, or was cut off; the job that makes it goes on.
            if (
                File.Exists(Path.Combine(bag, "manifest-sha256.txt"))
                && await new Bag(bag).VerifyAsync(cancel) is { } fault
            )
            {
                findings.Add($"{Path.GetFileName(bag)}: {fault}");
            }
        }

        return Say("Bundles", Wording.Plural(bags.Count, "bag"), findings);
    }

    private static List<string> Column(SqliteConnection connection, string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        using var reader = command.ExecuteReader();
        List<string> values = [];
        while (reader.Read())
        {
            values.Add(reader.GetString(0));
        }

        return values;
    }

    private int Say(string kind, string looked, IReadOnlyList<string> findings)
    {
        var found = findings.Count == 0 ? "no finding" : Wording.Plural(findings.Count, "finding");
        output.WriteLine($"{kind}: {looked} verified, {found}.");
        foreach (var finding in findings)
        {
            output.WriteLine($"  {finding}");
        }

        return findings.Count;
    }
}
