using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Server.Disposition;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Ledger;

namespace WideKeel.Server.Ledger;

/// <summary>An entry as the API shows it; <c>Before</c> and <c>After</c> are the values as they were written.</summary>
public sealed record LedgerView(
    long Sequence,
    string At,
    string Who,
    string? OnBehalfOf,
    string? Address,
    string Verb,
    string SubjectKind,
    string SubjectId,
    JsonElement? Before,
    JsonElement? After,
    string? Reason,
    string Hash
);

public sealed record LedgerPage(IReadOnlyList<LedgerView> Entries, string? Next, long Total);

public sealed record VerificationView(
    bool Sound,
    long Entries,
    int Heads,
    string Root,
    long? FirstBadEntry,
    string? Finding,
    IReadOnlyList<string> Remarks
);

public static class LedgerEndpoints
{
    private const int MostExported = 100_000;

    public static void MapLedger(this IEndpointRouteBuilder api)
    {
        api.MapGet("/ledger", List).Requires(Right.ReadLedger);
        api.MapGet("/ledger/verification", Verify).Requires(Right.VerifyLedger);
        api.MapGet("/ledger/export", Export).Requires(Right.VerifyLedger);
    }

    private static async Task<Reply<LedgerPage>> List(
        string? words,
        string? who,
        string? verb,
        string? kind,
        string? subject,
        string? day,
        long? upTo,
        string? cursor,
        int? limit,
        [AsParameters] ApiContext context
    )
    {
        if (!string.IsNullOrEmpty(day) && !LocalDatePattern.Iso.Parse(day).Success)
        {
            return new Refusal("date-malformed", "day", $"“{day}” is no day as in 2026-06-15.");
        }

        var most = Math.Clamp(limit ?? 100, 1, 500);
        var entries = Visible(context.Caller, context.Db);
        entries = string.IsNullOrEmpty(who) ? entries : entries.Where(e => e.Who == who);
        entries = string.IsNullOrEmpty(verb) ? entries : entries.Where(e => e.Verb == verb);
        entries = string.IsNullOrEmpty(kind) ? entries : entries.Where(e => e.SubjectKind == kind);
        entries = string.IsNullOrEmpty(subject) ? entries : entries.Where(e => e.SubjectId == subject);
        entries = string.IsNullOrEmpty(day) ? entries : entries.Where(e => e.At.StartsWith(day));
        entries = upTo is { } last ? entries.Where(e => e.Sequence <= last) : entries;
        if (!string.IsNullOrWhiteSpace(words))
        {
            var pattern = Like.Containing(words);
            entries = entries.Where(e => EF.Functions.Like(e.Body, pattern, Like.Escape));
        }

        var total = await entries.LongCountAsync(context.Cancel);
        if (cursor is not null)
        {
            if (Cursor.Read(cursor) is not { } at)
            {
                return new Refusal("cursor-malformed", "cursor", "This cursor is not one that the list gave out.");
            }

            entries = entries.Where(e => e.Sequence < at.Id);
        }

        var page = await entries.OrderByDescending(e => e.Sequence).Take(most + 1).ToListAsync(context.Cancel);
        return new LedgerPage(
            [.. page.Take(most).Select(View)],
            page.Count > most ? Cursor.Write(0L, page[most - 1].Sequence) : null,
            total
        );
    }

    /// <summary>
    /// Entries about units of the remit; entries about nobody's unit only for those over the whole organisation.
    /// </summary>
    private static IQueryable<LedgerRow> Visible(Caller caller, WideKeelDb db)
    {
        // What happens in a matter is for its members, whoever else may read the ledger.
        var matters = caller.Matters.Keys.Select(m => m.ToString(CultureInfo.InvariantCulture)).ToList();
        var rows = db.Ledger.AsNoTracking().Where(e => e.SubjectKind != "matter" || matters.Contains(e.SubjectId));
        if (caller.Units(Right.ReadLedger) is not { } units)
        {
            return rows;
        }

        var paths = units.Select(u => caller.PathOf(u).Value).ToList();
        return rows.Where(e => e.SubjectKind == "matter" || (e.SubjectUnit != null && paths.Contains(e.SubjectUnit)));
    }

    internal static async Task<List<LedgerView>> HistoryAsync(
        WideKeelDb db,
        string kind,
        long id,
        CancellationToken cancel
    )
    {
        var subject = id.ToString(CultureInfo.InvariantCulture);
        var rows = await db
            .Ledger.AsNoTracking()
            .Where(e => e.SubjectKind == kind && e.SubjectId == subject)
            .OrderByDescending(e => e.Sequence)
            .Take(200)
            .ToListAsync(cancel);
        return [.. rows.Select(View)];
    }

    private static LedgerView View(LedgerRow row)
    {
        using var body = JsonDocument.Parse(row.Body);
        var root = body.RootElement;
        return new(
            row.Sequence,
            row.At,
            row.Who,
            Text("onBehalfOf"),
            Text("address"),
            row.Verb,
            row.SubjectKind,
            row.SubjectId,
            Part("before"),
            Part("after"),
            Text("reason"),
            Convert.ToHexStringLower(row.LeafHash)
        );

        string? Text(string name) => root.TryGetProperty(name, out var value) ? value.GetString() : null;

        JsonElement? Part(string name) => root.TryGetProperty(name, out var value) ? value.Clone() : null;
    }

    private static async Task<Reply<VerificationView>> Verify(
        WideKeelOptions options,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    )
    {
        var report = await Task.Run(() => LedgerReader.Verify(options.DatabaseFile), cancel);
        await writer.RunAsync(
            caller.Actor,
            session =>
            {
                session.Record(
                    "ledger-verified",
                    new("ledger", "1"),
                    after: new JsonObject { ["sound"] = report.Sound, ["entries"] = report.Entries },
                    reason: report.Finding
                );
                return Task.CompletedTask;
            },
            cancel
        );
        return new VerificationView(
            report.Sound,
            report.Entries,
            report.Heads,
            Convert.ToHexStringLower(report.Root),
            report.FirstBadEntry,
            report.Finding,
            report.Remarks
        );
    }

    /// <summary>A range with its proofs, for a check without the product; format in docs/formats.md.</summary>
    private static async Task<IResult> Export(
        long? from,
        long? to,
        Heads heads,
        IClock clock,
        [AsParameters] ApiContext context
    )
    {
        await context.Db.Database.OpenConnectionAsync(context.Cancel);
        var connection = (SqliteConnection)context.Db.Database.GetDbConnection();
        var size = await context.Db.Ledger.LongCountAsync(context.Cancel);
        var (first, last) = (from ?? 1, Math.Min(to ?? size, size));
        if (first < 1 || first > last || last - first >= MostExported)
        {
            return (Reply<Done>)
                new Refusal(
                    "range-malformed",
                    "from",
                    $"Give a range within 1 to {size}, of at most {MostExported} entries."
                );
        }

        var own = context.Caller.Matters.Keys.Select(m => m.ToString(CultureInfo.InvariantCulture)).ToList();
        var secret = (
            await context
                .Db.Ledger.AsNoTracking()
                .Where(e =>
                    e.Sequence >= first && e.Sequence <= last && e.SubjectKind == "matter" && !own.Contains(e.SubjectId)
                )
                .Select(e => e.Sequence)
                .ToListAsync(context.Cancel)
        ).ToHashSet();
        var export = ExportOf(
            connection,
            heads,
            clock.GetCurrentInstant(),
            [
                .. LedgerReader
                    .Entries(connection, first, last)
                    .Select(e => (e.Sequence, e.Body, secret.Contains(e.Sequence))),
            ]
        );
        return Results.File(Encoding.UTF8.GetBytes(export), "application/json", $"ledger-{first}-{last}.json");
    }

    /// <summary>Entries with their proofs under a head signed now; the format of docs/formats.md.</summary>
    /// <param name="entries">Secret ones show their hash only.</param>
    internal static string ExportOf(
        SqliteConnection connection,
        Heads heads,
        Instant now,
        IReadOnlyList<(long Sequence, string Body, bool Secret)> entries
    )
    {
        var prover = new MerkleProver(LedgerReader.LeafHashes(connection));
        return new JsonObject
        {
            ["format"] = LedgerExport.Format,
            ["head"] = JsonNode.Parse(heads.Sign(prover.Size, prover.Root(), now).ToLine()),
            ["publicKey"] = heads.PublicKeyPem,
            ["entries"] = new JsonArray([.. entries.Select(e => EntryOf(e.Sequence, e.Body, e.Secret, prover))]),
        }.ToJsonString();
    }

    internal static string? ReasonOf(LedgerRow row)
    {
        using var body = JsonDocument.Parse(row.Body);
        return body.RootElement.TryGetProperty("reason", out var reason) ? reason.GetString() : null;
    }

    /// <summary>
    /// Of an entry that the reader may not see only its hash is given: it proves its place among the others, and tells
    /// nothing.
    /// </summary>
    private static JsonObject EntryOf(long sequence, string body, bool secret, MerkleProver prover)
    {
        var entry = new JsonObject { ["seq"] = sequence };
        if (secret)
        {
            entry["leaf"] = Convert.ToHexStringLower(MerkleTree.LeafHash(Encoding.UTF8.GetBytes(body)));
        }
        else
        {
            entry["body"] = body;
        }

        entry["inclusion"] = new JsonArray([
            .. prover.InclusionProof((int)sequence - 1).Select(h => (JsonNode)Convert.ToHexStringLower(h)),
        ]);
        return entry;
    }
}
