using System.Globalization;
using CsvHelper;
using Microsoft.EntityFrameworkCore;
using NodaTime.Text;
using WideKeel.Server.Content;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>The tables of a bundle that say what is in it, as CSV (RFC 4180).</summary>
internal static class BundleLoadFile
{
    private static readonly string[] Columns =
    [
        "id",
        "family",
        "custodian",
        "container",
        "path",
        "created",
        "modified",
        "author",
        "to",
        "subject",
        "sha256",
        "file",
        "text",
        "message_id",
        "duplicate_of",
        "version_from",
        "cc",
        "bcc",
        "sent",
        "family_first",
        "family_last",
        "text_status",
        "all_custodians",
        "tags",
    ];

    /// <summary>One row a document that is given; those left out as duplicates stand in it without a file.</summary>
    /// <param name="rows">The items of the bundle.</param>
    /// <param name="documents">What is given of them, with its duplicates marked.</param>
    public static async Task<string> WriteAsync(
        IReadOnlyCollection<BundleItem> rows,
        IReadOnlyCollection<BundleDocument> documents,
        long matter,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var places = await CustodianEndpoints.ContainerNamesAsync(db, cancel);
        var custodians = await CustodiansAsync(matter, db, cancel);
        var codes = (await BundleCoding.CodesAsync([.. rows.Select(r => r.ItemId)], matter, db, cancel)).ToLookup(c =>
            c.ItemId
        );
        var byId = documents.ToDictionary(d => d.Id);
        List<(BundleItem Row, Item Item, BundleDocument Document, IReadOnlyList<string> Custodians)> lines = [];
        foreach (var portion in rows.Where(r => r.Documents is not null).Chunk(1_000))
        {
            var ids = portion.Select(r => r.ItemId).ToList();
            var items = await db
                .Items.AsNoTracking()
                .Where(i => ids.Contains(i.Id))
                .ToDictionaryAsync(i => i.Id, cancel);
            foreach (var row in portion)
            {
                var item = items[row.ItemId];
                var theirs = custodians.Where(c => IsOf(c, item)).Select(c => c.Name).ToList();
                lines.AddRange(
                    row.Documents!.Where(d => d.Withheld is null)
                        .Select(d => (row, item, byId[d.Id], (IReadOnlyList<string>)theirs))
                );
            }
        }

        // A document that is left out as a duplicate leaves its custodians with the one that stays.
        var ofDuplicates = lines
            .Where(l => l.Document.DuplicateOf is not null)
            .ToLookup(l => l.Document.DuplicateOf!, l => l.Custodians);
        return Table(
            Columns,
            lines.Select(l =>
                Line(
                    l.Item,
                    l.Document,
                    NameOf(places[(l.Document.Then?.ContainerId ?? l.Item.ContainerId)]),
                    l.Row.Documents!.Last(d =>
                        d.VersionFrom is null || l.Row.Documents!.All(o => o.VersionFrom is not null)
                    ).Id,
                    l.Custodians,
                    l.Custodians.Concat(ofDuplicates[l.Document.Id].SelectMany(c => c)).Distinct(),
                    BundleCoding.TagsOf(codes[l.Row.ItemId], l.Row, l.Document)
                )
            )
        );
    }

    private static string?[] Line(
        Item item,
        BundleDocument document,
        string container,
        string last,
        IEnumerable<string> custodians,
        IEnumerable<string> all,
        string tags
    ) =>
        [
            document.Id,
            document.Family,
            string.Join("; ", custodians),
            container,
            document.Then?.Path ?? item.Path,
            LocalDatePattern.Iso.Format(document.Then?.Created ?? item.Created),
            LocalDatePattern.Iso.Format(document.Then?.Modified ?? item.Modified),
            document.Author,
            document.To,
            document.Title,
            document.Hash,
            document.File is null ? null : $"data/{document.File}",
            document.TextFile is null ? null : $"data/{document.TextFile}",
            document.MessageId,
            document.DuplicateOf,
            document.VersionFrom is { } from ? InstantPattern.General.Format(from) : null,
            document.Cc,
            document.Bcc,
            document.Sent,
            document.Family,
            last,
            document.TextLimit ?? (document.TextHash is null ? "none" : "whole"),
            string.Join("; ", all),
            tags,
        ];

    /// <summary>A custodian with what makes an item theirs.</summary>
    private sealed record Keeper(string Name, string Mail, bool Authored, IReadOnlySet<long> Places);

    private static async Task<List<Keeper>> CustodiansAsync(long matter, WideKeelDb db, CancellationToken cancel)
    {
        var found = await FoundPlaces.UndecidedAsync(db, cancel, matter);
        var custodians = await db
            .Custodians.AsNoTracking()
            .Include(c => c.Person)
            .Where(c => c.MatterId == matter)
            .ToListAsync(cancel);
        return custodians.ConvertAll(c => new Keeper(
            c.Person!.Name,
            c.Person.Mail,
            c.Authored,
            c.Containers.Concat(found[c.Id]).ToHashSet()
        ));
    }

    private static bool IsOf(Keeper keeper, Item item) =>
        keeper.Places.Contains(item.ContainerId)
        || (
            keeper.Authored
            && new[] { item.Author, item.Owner }.Any(n =>
                n is not null
                && (
                    n.Equals(keeper.Name, StringComparison.OrdinalIgnoreCase)
                    || n.Equals(keeper.Mail, StringComparison.OrdinalIgnoreCase)
                )
            )
        );

    /// <summary>
    /// What could not be taken in, what of the places that were asked nothing could read, and of what was taken in the
    /// documents whose text is not all there: a search does not find their words.
    /// </summary>
    public static async Task<string> ExceptionsAsync(
        IReadOnlyCollection<BundleItem> rows,
        MatterBundle bundle,
        OrganisationCalendar calendar,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        List<string?[]> lines = [];
        foreach (var portion in rows.Chunk(1_000))
        {
            var ids = portion.Select(r => r.ItemId).ToList();
            var paths = await db
                .Items.AsNoTracking()
                .Where(i => ids.Contains(i.Id))
                .ToDictionaryAsync(i => i.Id, i => i.Path, cancel);
            foreach (var row in portion)
            {
                var item = MatterDoor.Text(row.ItemId);
                if (row.Left is { } left)
                {
                    lines.Add([item, null, paths[row.ItemId], left]);
                }

                lines.AddRange(
                    (row.Documents ?? [])
                        .Where(d => d.Withheld is null && WhyNotSearched(d) is not null)
                        .Select(d => (string?[])[item, d.Id, d.Then?.Path ?? paths[row.ItemId], WhyNotSearched(d)])
                );
            }
        }

        lines.AddRange(await UnreadAsync(bundle, calendar, db, cancel));
        return Table(["item", "id", "path", "why"], lines);
    }

    /// <summary>Null where all of its words can be found.</summary>
    private static string? WhyNotSearched(BundleDocument document) =>
        document.TextLimit
        ?? (
            document.TextHash is null && document.Bytes > 0 && document.DuplicateOf is null
                ? UnsearchedFiles.TextlessWords(ItemIntake.TypeOf(document.File ?? ""))
                : null
        );

    /// <summary>What lies in the places that the bundle was made of and could not be read: it is no item.</summary>
    private static async Task<IEnumerable<string?[]>> UnreadAsync(
        MatterBundle bundle,
        OrganisationCalendar calendar,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var definition = bundle.Options.RunId is { } run
            ? (await db.SweepRuns.AsNoTracking().SingleAsync(r => r.Id == run, cancel)).Definition
            : (await db.HoldOrders.AsNoTracking().SingleAsync(o => o.Id == bundle.Options.OrderId, cancel)).InForce;
        if (definition is null)
        {
            return [];
        }

        var query = await HoldQuery.OfAsync(definition with { Query = null }, bundle.MatterId, db, calendar, cancel);
        return query.Refused
            ? []
            : (
                await UnsearchedFiles
                    .UnreadableIn(db, query.Value)
                    .OrderBy(u => u.SourceId)
                    .ThenBy(u => u.Path)
                    .Select(u => new { u.Path, u.Reason })
                    .ToListAsync(cancel)
            ).Select(u => (string?[])[null, null, u.Path, u.Reason]);
    }

    private static string NameOf(ContainerRef place) => $"{place.Source}/{place.Name}";

    public static string Table(string[] columns, IEnumerable<string?[]> rows)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using var csv = new CsvWriter(text, CsvAnswer.Form);
        foreach (var row in rows.Prepend(columns))
        {
            foreach (var cell in row)
            {
                csv.WriteField(cell);
            }

            csv.NextRecord();
        }

        csv.Flush();
        return text.ToString();
    }
}
