using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;
using CsvHelper;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Matters;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.Ledger;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Ledger;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>
/// Makes a bundle: originals, extracted text, load file, mailbox, duplicates and chain of custody, as a bag that is
/// read back from disk before it counts as made. Each item is noted when it is in, so a run that was cut off goes on
/// where it was; numbers were given out before.
/// </summary>
public sealed class MatterBundleJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    Safekeeping safekeeping,
    Heads heads,
    OrganisationCalendar calendar,
    NodaTime.IClock clock,
    WideKeelOptions options
) : IJob
{
    public static readonly JobKind JobKind = new("matter-bundle", JobKind.Matters, Changes: "matters");
    private const string LoadFile = "load.csv";
    private const string Mailbox = "mail.mbox";
    private static readonly int Portion = Portions.Or(50);

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        MatterBundle bundle;
        Matter matter;
        string organisation;
        List<long> waiting;
        await using (var db = await databases.CreateDbContextAsync(cancel))
        {
            bundle = await db.MatterBundles.AsNoTracking().SingleAsync(b => b.Id == run.Job.SubjectId, cancel);
            matter = await db.Matters.AsNoTracking().SingleAsync(m => m.Id == bundle.MatterId, cancel);
            organisation = await db.Organisations.Select(o => o.Name).SingleAsync(cancel);
            waiting = await db
                .BundleItems.Where(i => i.BundleId == bundle.Id && i.Documents == null && i.Left == null)
                .OrderBy(i => i.ItemId)
                .Select(i => i.ItemId)
                .ToListAsync(cancel);
        }

        if (bundle.State == RunState.Done)
        {
            return "It was made already.";
        }

        await writer.RunAsync(
            run.Actor,
            async session =>
                await session
                    .Db.MatterBundles.Where(b => b.Id == bundle.Id)
                    .ExecuteUpdateAsync(set => set.SetProperty(b => b.State, RunState.Running), cancel),
            cancel
        );
        var bag = MatterBundleEndpoints.BagOf(options, bundle.Id);
        var done = bundle.Items - waiting.Count;
        foreach (var portion in waiting.Chunk(Portion))
        {
            await TakeInAsync(run, bag, bundle, portion, cancel);
            done += portion.Length;
            await run.ReportAsync(done, bundle.Items, "Copying originals and texts", cancel);
        }

        return await CloseAsync(run, bag, bundle, matter, organisation, cancel);
    }

    private async Task TakeInAsync(JobRun run, Bag bag, MatterBundle bundle, long[] ids, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var items = await (
            from i in db.Items.AsNoTracking()
            join c in db.Containers on i.ContainerId equals c.Id
            join s in db.Sources on c.SourceId equals s.Id
            where ids.Contains(i.Id)
            select new
            {
                Item = i,
                s.Kind,
                s.Root,
                Text = db.ItemTexts.Where(t => t.ItemId == i.Id).Select(t => t.Text).FirstOrDefault(),
            }
        ).ToDictionaryAsync(i => i.Item.Id, cancel);
        var numbers = await db
            .BundleItems.AsNoTracking()
            .Where(i => i.BundleId == bundle.Id && ids.Contains(i.ItemId))
            .ToDictionaryAsync(i => i.ItemId, i => i.FirstControl, cancel);
        var former = await FormerAsync(db, bundle, ids, cancel);
        Dictionary<long, (List<BundleDocument>? Documents, string? Left)> results = [];
        foreach (var id in ids)
        {
            var source = items[id];
            try
            {
                results[id] = await WriteAsync(
                    bag,
                    bundle,
                    source.Item,
                    ContentSources.Of(source.Kind, source.Root),
                    source.Text ?? "",
                    numbers[id],
                    [.. former[id].Where(c => c.Hash != source.Item.Hash)],
                    cancel
                )
                    is { } documents
                    ? (documents, null)
                    : (null, "Its content is neither at its source nor in safekeeping.");
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                results[id] = (null, DirectoryShare.Words(e));
            }
        }

        await NoteAsync(run, bundle, results, cancel);
    }

    private async Task NoteAsync(
        JobRun run,
        MatterBundle bundle,
        Dictionary<long, (List<BundleDocument>? Documents, string? Left)> results,
        CancellationToken cancel
    )
    {
        var ids = results.Keys.ToList();
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                foreach (
                    var item in await session
                        .Db.BundleItems.Where(i => i.BundleId == bundle.Id && ids.Contains(i.ItemId))
                        .ToListAsync(cancel)
                )
                {
                    (item.Documents, item.Left) = results[item.ItemId];
                }
            },
            cancel
        );
    }

    /// <summary>
    /// One item with its family. Null where its content is not to be had: as it was held, from its source; where that
    /// holds something else now, from safekeeping.
    /// </summary>
    private async Task<List<BundleDocument>?> WriteAsync(
        Bag bag,
        MatterBundle bundle,
        Item item,
        IContentSource source,
        string text,
        long control,
        IReadOnlyList<ItemCopy> former,
        CancellationToken cancel
    )
    {
        var number = IdOf(bundle, item.Id, control, 0);
        var original = FileOf(number, item.Type);
        var versions = await VersionsAsync(bag, item, number, former, cancel);
        if (!await PutOriginalAsync(bag, item, source, original, cancel))
        {
            return versions.Count == 0 ? null : versions;
        }

        MailParts? mail = null;
        if (item.Type == "eml")
        {
            await using var message = bag.Open(original);
            mail = MailParts.Read(message);
        }

        var parts = Family.Split(text, bundle.Options.Attachments ? item.Attachments?.Split('\n') ?? [] : []);
        List<BundleDocument> documents =
        [
            await WithTextAsync(
                number,
                original,
                item.Hash,
                parts[0].Text,
                item.Title,
                mail?.To,
                mail?.MessageId,
                item.Bytes
            ),
        ];
        if (bundle.Options.Attachments && mail is not null)
        {
            for (var i = 0; i < mail.Attachments.Count; i++)
            {
                var attachment = mail.Attachments[i];
                var id = IdOf(bundle, item.Id, control, i + 1);
                var file = FileOf(id, ItemIntake.TypeOf(attachment.Name));
                documents.Add(
                    await WithTextAsync(
                        id,
                        file,
                        await bag.PutAsync(file, new MemoryStream(attachment.Content), cancel),
                        i + 1 < parts.Count ? parts[i + 1].Text : "",
                        attachment.Name,
                        null,
                        null,
                        attachment.Content.Length
                    )
                );
            }
        }

        return [.. documents, .. versions];

        async Task<BundleDocument> WithTextAsync(
            string id,
            string file,
            string hash,
            string body,
            string title,
            string? to,
            string? messageId,
            long bytes
        )
        {
            var textFile = body.Length == 0 ? null : $"text/{id}.txt";
            var textHash = textFile is null
                ? null
                : await bag.PutAsync(textFile, new MemoryStream(Encoding.UTF8.GetBytes(body)), cancel);
            return new(id, number, file, hash, bytes, textFile, textHash, title, item.Author, to, messageId, null);
        }
    }

    /// <summary>
    /// The copies of contents that items had while an order of the matter held them: each until the next one came. With
    /// them those that the run found whose items the bundle holds.
    /// </summary>
    private static async Task<ILookup<long, ItemCopy>> FormerAsync(
        WideKeelDb db,
        MatterBundle bundle,
        long[] ids,
        CancellationToken cancel
    )
    {
        var holds = await (
            from hold in db.HoldItems.AsNoTracking()
            join order in db.HoldOrders on hold.OrderId equals order.Id
            where ids.Contains(hold.ItemId) && order.MatterId == bundle.MatterId && order.InForceAt != null
            select new { hold.ItemId, order.InForceAt }
        ).ToListAsync(cancel);
        var since = holds.GroupBy(h => h.ItemId).ToDictionary(g => g.Key, g => g.Min(h => h.InForceAt!.Value));
        var copies = await db
            .ItemCopies.AsNoTracking()
            .Where(c => ids.Contains(c.ItemId))
            .OrderBy(c => c.At)
            .ToListAsync(cancel);
        var found = (
            await db
                .SweepVersionHits.AsNoTracking()
                .Where(h => h.RunId == bundle.Options.RunId && ids.Contains(h.ItemId))
                .Select(h => new { h.ItemId, h.Hash })
                .ToListAsync(cancel)
        )
            .Select(h => (h.ItemId, h.Hash))
            .ToHashSet();
        return copies
            .GroupBy(c => c.ItemId)
            .SelectMany(g => g.Zip(g.Skip(1).Select(n => (Instant?)n.At).Append(null)))
            .Where(c =>
                found.Contains((c.First.ItemId, c.First.Hash))
                || (since.TryGetValue(c.First.ItemId, out var held) && (c.Second is not { } until || until > held))
            )
            .Select(c => c.First)
            .ToLookup(c => c.ItemId);
    }

    /// <summary>Contents that an item had while it was held, each a document of its family with its time.</summary>
    private async Task<List<BundleDocument>> VersionsAsync(
        Bag bag,
        Item item,
        string number,
        IReadOnlyList<ItemCopy> former,
        CancellationToken cancel
    )
    {
        List<BundleDocument> documents = [];
        foreach (var copy in former)
        {
            var id = $"{number}.v{(documents.Count + 1).ToString(CultureInfo.InvariantCulture)}";
            var file = FileOf(id, item.Type);
            await using var content = safekeeping.Open(copy.Hash);
            if (content is null || await bag.PutAsync(file, content, cancel) != copy.Hash)
            {
                bag.Remove(file);
                continue;
            }

            content.Position = 0;
            var text = (await TextExtraction.ExtractAsync(content, item.Type, cancel)).Text;
            var textFile = text.Length == 0 ? null : $"text/{id}.txt";
            var textHash = textFile is null
                ? null
                : await bag.PutAsync(textFile, new MemoryStream(Encoding.UTF8.GetBytes(text)), cancel);
            documents.Add(
                new(
                    id,
                    number,
                    file,
                    copy.Hash,
                    copy.Bytes,
                    textFile,
                    textHash,
                    item.Title,
                    item.Author,
                    null,
                    null,
                    null
                )
                {
                    VersionFrom = copy.At,
                }
            );
        }

        return documents;
    }

    /// <summary>
    /// Copying tells whether the source still holds what was found; only where it does not is safekeeping asked.
    /// </summary>
    private async Task<bool> PutOriginalAsync(
        Bag bag,
        Item item,
        IContentSource source,
        string original,
        CancellationToken cancel
    )
    {
        var whole = false;
        try
        {
            foreach (
                var open in new Func<Stream?>[] { () => source.Open(item.Path), () => safekeeping.Open(item.Hash) }
            )
            {
                await using var content = open();
                if (content is not null && await bag.PutAsync(original, content, cancel) == item.Hash)
                {
                    return whole = true;
                }
            }

            return false;
        }
        finally
        {
            if (!whole)
            {
                bag.Remove(original);
            }
        }
    }

    private static string FileOf(string id, string type) => $"originals/{id}{(type.Length == 0 ? "" : $".{type}")}";

    private static string IdOf(MatterBundle bundle, long item, long control, int member) =>
        bundle.ControlPrefix.Length > 0 ? new ControlNumber(bundle.ControlPrefix, control + member).ToString()
        : member == 0 ? MatterDoor.Text(item)
        : string.Create(CultureInfo.InvariantCulture, $"{item}-{member}");

    private async Task<string> CloseAsync(
        JobRun run,
        Bag bag,
        MatterBundle bundle,
        Matter matter,
        string organisation,
        CancellationToken cancel
    )
    {
        await run.ReportAsync(bundle.Items, bundle.Items, "Closing and verifying the bundle", cancel);
        await using var db = await databases.CreateDbContextAsync(cancel);
        var rows = await db
            .BundleItems.AsNoTracking()
            .Where(i => i.BundleId == bundle.Id)
            .OrderBy(i => i.ItemId)
            .ToListAsync(cancel);
        var all = MarkDuplicates(rows.SelectMany(r => r.Documents ?? []).ToList());
        if (bundle.Options.OnePerContent)
        {
            foreach (var twice in all.Where(d => d.DuplicateOf is not null && d.Family == d.Id))
            {
                foreach (var member in all.Where(d => d.Family == twice.Id))
                {
                    bag.Remove(member.File!);
                    if (member.TextFile is not null)
                    {
                        bag.Remove(member.TextFile);
                    }
                }
            }

            var gone = all.Where(d => d.DuplicateOf is not null && d.Family == d.Id).Select(d => d.Id).ToHashSet();
            all = [.. all.Select(d => gone.Contains(d.Family) ? d with { File = null, TextFile = null } : d)];
        }

        var written = all.Where(d => d.File is not null).ToList();
        List<(string Name, string Hash)> payload =
        [
            .. written.Select(d => (d.File!, d.Hash)),
            .. written.Where(d => d.TextFile is not null).Select(d => (d.TextFile!, d.TextHash!)),
        ];
        payload.Add(
            (LoadFile, await bag.PutAsync(LoadFile, Utf8(await LoadAsync(db, bundle, rows, all, cancel)), cancel))
        );
        payload.Add(("duplicates.csv", await bag.PutAsync("duplicates.csv", Utf8(Duplicates(all)), cancel)));
        var left = rows.Where(r => r.Left is not null).ToList();
        payload.Add(
            (
                "exceptions.csv",
                await bag.PutAsync(
                    "exceptions.csv",
                    Utf8(Table(["item", "why"], left.Select(r => (string?[])[MatterDoor.Text(r.ItemId), r.Left]))),
                    cancel
                )
            )
        );
        if (bundle.Options.Mbox)
        {
            payload.Add(
                (
                    Mailbox,
                    await bag.PutAsync(
                        Mailbox,
                        await MailboxAsync(
                            bag,
                            written.Where(d => d.Id == d.Family && d.File!.EndsWith(".eml", StringComparison.Ordinal))
                        ),
                        cancel
                    )
                )
            );
        }

        var custody = Custody(db, matter.Id);
        var bytes = written.Sum(d => d.Bytes);
        var hash = bag.Close(
            payload,
            [
                ("Source-Organization", organisation),
                ("External-Identifier", $"{matter.Number}-bundle-{MatterDoor.Text(bundle.Id)}"),
                ("External-Description", $"{matter.Number} {matter.Name}: {bundle.Name}"),
                ("Bagging-Date", LocalDatePattern.Iso.Format(calendar.DateOf(bundle.At))),
                ("Bag-Software-Agent", "Wide Keel"),
            ],
            new Dictionary<string, string>
            {
                ["metadata/custody.csv"] = custody.Table,
                ["metadata/custody.json"] = custody.Json,
            }
        );
        if (await bag.VerifyAsync(cancel) is { } wrong)
        {
            throw new IOException($"The bundle is not whole: {wrong}");
        }

        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                var made = await session.Db.MatterBundles.SingleAsync(b => b.Id == bundle.Id, cancel);
                (made.State, made.MadeAt, made.Documents, made.Duplicates, made.Bytes, made.Left, made.Hash) = (
                    RunState.Done,
                    session.Now,
                    written.Count,
                    all.Count(d => d.DuplicateOf is not null),
                    bytes,
                    left.Count,
                    hash
                );
                session.Record(
                    "bundle-made",
                    MatterDoor.Subject(matter.Id),
                    after: new JsonObject
                    {
                        ["name"] = bundle.Name,
                        ["items"] = rows.Count - left.Count,
                        ["documents"] = written.Count,
                        ["left"] = left.Count,
                        ["sha256"] = hash,
                    }
                );
            },
            cancel
        );
        return string.Create(
            CultureInfo.InvariantCulture,
            $"{written.Count:N0} documents of {rows.Count - left.Count:N0} "
                + $"items{(left.Count == 0 ? "" : $"; {left.Count:N0} items could not be taken in")}."
        );
    }

    private static string Duplicates(List<BundleDocument> documents) =>
        Table(
            ["id", "duplicate_of", "sha256", "message_id", "left_out", "differs_from"],
            documents
                .Where(d => d.DuplicateOf is not null || d.DiffersFrom is not null)
                .Select(d =>
                    (string?[])[d.Id, d.DuplicateOf, d.Hash, d.MessageId, d.File is null ? "yes" : "no", d.DiffersFrom]
                )
        );

    /// <summary>
    /// The first document with a content is the one; what has the same content after it is a duplicate. Another content
    /// under the same message id is no duplicate: it differs, and is told of.
    /// </summary>
    private static List<BundleDocument> MarkDuplicates(List<BundleDocument> documents)
    {
        Dictionary<string, string> byHash = [],
            byMessage = [];
        return
        [
            .. documents.Select(d =>
            {
                var same = byHash.GetValueOrDefault(d.Hash);
                var alike = d.MessageId is { } id ? byMessage.GetValueOrDefault(id) : null;
                byHash.TryAdd(d.Hash, d.Id);
                if (d.MessageId is not null)
                {
                    byMessage.TryAdd(d.MessageId, d.Id);
                }

                return d with
                {
                    DuplicateOf = same,
                    DiffersFrom = same is null ? alike : null,
                };
            }),
        ];
    }

    private static readonly string[] LoadColumns =
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
    ];

    private static async Task<string> LoadAsync(
        WideKeelDb db,
        MatterBundle bundle,
        List<BundleItem> rows,
        List<BundleDocument> documents,
        CancellationToken cancel
    )
    {
        var ids = rows.Select(r => r.ItemId).ToList();
        var places = await CustodianEndpoints.ContainerNamesAsync(db, cancel);
        var custodians = await db
            .Custodians.AsNoTracking()
            .Include(c => c.Person)
            .Where(c => c.MatterId == bundle.MatterId)
            .ToListAsync(cancel);
        var byId = documents.ToDictionary(d => d.Id);
        List<string?[]> lines = [];
        foreach (var portion in rows.Chunk(1_000))
        {
            var portionIds = portion.Select(r => r.ItemId).ToList();
            var items = await db
                .Items.AsNoTracking()
                .Where(i => portionIds.Contains(i.Id))
                .ToDictionaryAsync(i => i.Id, cancel);
            foreach (var row in portion.Where(r => r.Documents is not null))
            {
                var item = items[row.ItemId];
                var place = places[item.ContainerId];
                var theirs = custodians
                    .Where(c =>
                        c.Containers.Contains(item.ContainerId)
                        || (c.Authored && (IsOf(c, item.Author) || IsOf(c, item.Owner)))
                    )
                    .Select(c => c.Person!.Name);
                foreach (var d in row.Documents!.Select(d => byId[d.Id]))
                {
                    lines.Add([
                        d.Id,
                        d.Family,
                        string.Join("; ", theirs),
                        $"{place.Source}/{place.Name}",
                        item.Path,
                        LocalDatePattern.Iso.Format(item.Created),
                        LocalDatePattern.Iso.Format(item.Modified),
                        d.Author,
                        d.To,
                        d.Title,
                        d.Hash,
                        d.File is null ? null : $"data/{d.File}",
                        d.TextFile is null ? null : $"data/{d.TextFile}",
                        d.MessageId,
                        d.DuplicateOf,
                        d.VersionFrom is { } from ? InstantPattern.General.Format(from) : null,
                    ]);
                }
            }
        }

        return Table(LoadColumns, lines);

        static bool IsOf(Custodian custodian, string? name) =>
            name is not null
            && (
                name.Equals(custodian.Person!.Name, StringComparison.OrdinalIgnoreCase)
                || name.Equals(custodian.Person.Mail, StringComparison.OrdinalIgnoreCase)
            );
    }

    private static string Table(string[] columns, IEnumerable<string?[]> rows)
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

    private static MemoryStream Utf8(string text) => new(Encoding.UTF8.GetBytes(text));

    /// <summary>
    /// All messages of the bag as one mailbox (RFC 4155): lines that begin with "From " are quoted by one "&gt;",
    /// however many stand there already.
    /// </summary>
    private static async Task<Stream> MailboxAsync(Bag bag, IEnumerable<BundleDocument> messages)
    {
        var file = Path.Combine(Path.GetTempPath(), $"widekeel-{Guid.NewGuid():N}.mbox");
        var box = new FileStream(
            file,
            FileMode.Create,
            FileAccess.ReadWrite,
            FileShare.None,
            1 << 17,
            FileOptions.DeleteOnClose
        );
        foreach (var message in messages)
        {
            await box.WriteAsync("From widekeel@localhost.example Thu Jan  1 00:00:00 1970\n"u8.ToArray());
            using var content = bag.Open(message.File!);
            MailStore.WriteQuoted(content, box);
        }

        box.Seek(0, SeekOrigin.Begin);
        return box;
    }

    /// <summary>
    /// What was done in the matter, entry by entry, as a table and as an export with proofs that can be checked without
    /// the product.
    /// </summary>
    private (string Table, string Json) Custody(WideKeelDb db, long matter)
    {
        db.Database.OpenConnection();
        var subject = MatterDoor.Text(matter);
        var entries = db
            .Ledger.AsNoTracking()
            .Where(e => e.SubjectKind == "matter" && e.SubjectId == subject)
            .OrderBy(e => e.Sequence)
            .ToList();
        var json = LedgerEndpoints.ExportOf(
            (SqliteConnection)db.Database.GetDbConnection(),
            heads,
            clock.GetCurrentInstant(),
            [.. entries.Select(e => (e.Sequence, e.Body, false))]
        );
        return (
            Table(
                ["sequence", "at", "who", "verb", "reason", "entry_sha256"],
                entries.Select(e =>
                    (string?[])
                        [
                            MatterDoor.Text(e.Sequence),
                            e.At,
                            e.Who,
                            e.Verb,
                            LedgerEndpoints.ReasonOf(e),
                            Convert.ToHexStringLower(e.LeafHash),
                        ]
                )
            ),
            json
        );
    }
}
