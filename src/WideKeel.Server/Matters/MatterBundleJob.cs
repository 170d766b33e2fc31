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
    private const string PrivilegeLog = "privilege-log.csv";
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
                Text = db.ItemTexts.Where(t => t.ItemId == i.Id).Select(t => new { t.Text, t.Limit }).FirstOrDefault(),
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
                    (source.Text?.Text ?? "", source.Text?.Limit),
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
        (string Text, string? Limit) drawn,
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

        var mail = MailIn(bag, original);
        var parts = Family.Split(drawn.Text, bundle.Options.Attachments ? item.Attachments?.Split('\n') ?? [] : []);
        List<BundleDocument> documents =
        [
            await WithTextAsync(
                bag,
                Itself(number, original, item, mail, drawn.Limit) with
                {
                    Holds = HoldsOf(bag, original, mail),
                },
                parts[0].Text,
                cancel
            ),
        ];
        if (bundle.Options.Attachments && mail is not null)
        {
            foreach (var (i, attachment) in mail.Attachments.Index())
            {
                var id = IdOf(bundle, item.Id, control, i + 1);
                var file = FileOf(id, ItemIntake.TypeOf(attachment.Name));
                var hash = await bag.PutAsync(file, new MemoryStream(attachment.Content), cancel);
                var text = i + 1 < parts.Count ? parts[i + 1].Text : "";
                documents.Add(
                    await WithTextAsync(bag, Attached(id, number, file, hash, item, attachment), text, cancel)
                );
            }
        }

        return [.. documents, .. versions];
    }

    /// <summary>The first document of a family: the file, or the message.</summary>
    private static BundleDocument Itself(string id, string file, Item item, MailParts? mail, string? limit) =>
        new(id, id, file, item.Hash, item.Bytes, null, null, item.Title, item.Author, mail?.To, mail?.MessageId, null)
        {
            Cc = mail?.Cc,
            Bcc = mail?.Bcc,
            From = mail?.From,
            Sent = mail?.SentText,
            TextLimit = limit,
        };

    private static BundleDocument Attached(
        string id,
        string family,
        string file,
        string hash,
        Item item,
        MailAttachment attachment
    ) =>
        new(
            id,
            family,
            file,
            hash,
            attachment.Content.Length,
            null,
            null,
            attachment.Name,
            item.Author,
            null,
            null,
            null
        )
        {
            Holds = attachment.Holds(),
        };

    /// <summary>The document with its text beside it in the bag, where it has one.</summary>
    private static async Task<BundleDocument> WithTextAsync(
        Bag bag,
        BundleDocument document,
        string text,
        CancellationToken cancel
    )
    {
        if (text.Length == 0)
        {
            return document;
        }

        var file = $"text/{document.Id}.txt";
        return document with { TextFile = file, TextHash = await bag.PutAsync(file, Utf8(text), cancel) };
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
            var file = FileOf(id, copy.Facts.Type);
            await using var content = safekeeping.Open(copy.Hash);
            if (content is null || await bag.PutAsync(file, content, cancel) != copy.Hash)
            {
                bag.Remove(file);
                continue;
            }

            content.Position = 0;
            var read = await TextExtraction.ExtractAsync(content, copy.Facts.Type, cancel);
            var mail = MailIn(bag, file);
            var document = new BundleDocument(
                id,
                number,
                file,
                copy.Hash,
                copy.Bytes,
                null,
                null,
                copy.Facts.Title,
                copy.Facts.Author,
                mail?.To,
                null,
                null
            )
            {
                VersionFrom = copy.At,
                Then = new(copy.Facts.ContainerId, copy.Facts.Path, copy.Facts.Created, copy.Facts.Modified),
                Cc = mail?.Cc,
                Bcc = mail?.Bcc,
                From = mail?.From,
                Sent = mail?.SentText,
                TextLimit = read.Limit,
                Holds = HoldsOf(bag, file, mail),
            };
            documents.Add(await WithTextAsync(bag, document, read.Text, cancel));
        }

        return documents;
    }

    /// <summary>What lies within a file of the bag, however deep: what is withheld does not leave inside it.</summary>
    private static IReadOnlyList<HeldContent> HoldsOf(Bag bag, string file, MailParts? mail)
    {
        if (mail is not null || !file.EndsWith(".zip", StringComparison.Ordinal))
        {
            return mail?.Holds() ?? [];
        }

        using var archive = bag.Open(file);
        return archive.Length > TextExtraction.MaxDocumentBytes
            ? []
            : [.. Enclosed.HashesIn(archive).Select(h => new HeldContent(null, h))];
    }

    /// <summary>The message that a file of the bag is; null where it is none.</summary>
    private static MailParts? MailIn(Bag bag, string file)
    {
        if (!file.EndsWith(".eml", StringComparison.Ordinal))
        {
            return null;
        }

        using var message = bag.Open(file);
        return MailParts.Read(message);
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
        await WithholdAsync(run, bag, bundle, rows, db, cancel);
        var given = rows.SelectMany(r => r.Documents ?? []).Where(d => d.Withheld is null).ToList();
        var all = LeaveOut(bag, bundle, MarkDuplicates(given));
        var payload = await PayloadAsync(bag, bundle, rows, all, db, cancel);
        var hash = await SealAsync(bag, bundle, matter, organisation, payload, db, cancel);
        var figures = new Figures(
            rows.Count,
            all.Count(d => d.File is not null),
            all.Count(d => d.DuplicateOf is not null),
            rows.Count(r => r.Left is not null),
            rows.Sum(r => r.Documents?.Count(d => d.Withheld is not null) ?? 0),
            all.Where(d => d.File is not null).Sum(d => d.Bytes)
        );
        await NoteMadeAsync(run, bundle, figures, hash, cancel);
        return figures.Words;
    }

    /// <summary>What a bundle came to.</summary>
    private sealed record Figures(int Items, int Written, int Duplicates, int Left, int Withheld, long Bytes)
    {
        public string Words =>
            string.Create(
                CultureInfo.InvariantCulture,
                $"{Written:N0} documents of {Items - Left:N0} "
                    + $"items{(Left == 0 ? "" : $"; {Left:N0} items could not be taken in")}"
                    + $"{(Withheld == 0 ? "" : $"; {Withheld:N0} documents are withheld")}."
            );
    }

    private async Task NoteMadeAsync(
        JobRun run,
        MatterBundle bundle,
        Figures figures,
        string hash,
        CancellationToken cancel
    ) =>
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                var made = await session.Db.MatterBundles.SingleAsync(b => b.Id == bundle.Id, cancel);
                (made.State, made.MadeAt, made.Hash) = (RunState.Done, session.Now, hash);
                (made.Documents, made.Duplicates, made.Bytes) = (figures.Written, figures.Duplicates, figures.Bytes);
                (made.Left, made.Withheld) = (figures.Left, figures.Withheld);
                session.Record(
                    "bundle-made",
                    MatterDoor.Subject(bundle.MatterId),
                    after: new JsonObject
                    {
                        ["name"] = bundle.Name,
                        ["items"] = figures.Items - figures.Left,
                        ["documents"] = figures.Written,
                        ["left"] = figures.Left,
                        ["withheld"] = figures.Withheld,
                        ["sha256"] = hash,
                    }
                );
            },
            cancel
        );

    /// <summary>Writes what describes the bag, and reads the bag back. SHA-256 of its tag manifest.</summary>
    private async Task<string> SealAsync(
        Bag bag,
        MatterBundle bundle,
        Matter matter,
        string organisation,
        List<(string Name, string Hash)> payload,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var custody = Custody(db, matter.Id);
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
        return await bag.VerifyAsync(cancel) is { } wrong
            ? throw new IOException($"The bundle is not whole: {wrong}")
            : hash;
    }

    /// <summary>What the bag holds, each file with its hash: documents, their texts, and the tables about them.</summary>
    private async Task<List<(string Name, string Hash)>> PayloadAsync(
        Bag bag,
        MatterBundle bundle,
        List<BundleItem> rows,
        List<BundleDocument> all,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var written = all.Where(d => d.File is not null).ToList();
        List<(string Name, string Hash)> payload =
        [
            .. written.Select(d => (d.File!, d.Hash)),
            .. written.Where(d => d.TextFile is not null).Select(d => (d.TextFile!, d.TextHash!)),
        ];
        await PutAsync(LoadFile, Utf8(await BundleLoadFile.WriteAsync(rows, all, bundle.MatterId, db, cancel)));
        if (rows.Any(r => r.Documents?.Any(d => d.Withheld is not null) == true))
        {
            await PutAsync(PrivilegeLog, Utf8(await BundleCoding.PrivilegeLogAsync(rows, bundle.MatterId, db, cancel)));
        }

        await PutAsync("duplicates.csv", Utf8(Duplicates(all)));
        await PutAsync(
            "exceptions.csv",
            Utf8(await BundleLoadFile.ExceptionsAsync(rows, bundle, calendar, db, cancel))
        );
        if (bundle.Options.Mbox)
        {
            var messages = written.Where(d => d.Id == d.Family && d.File!.EndsWith(".eml", StringComparison.Ordinal));
            await PutAsync(Mailbox, MailboxOf(bag, messages));
        }

        return payload;

        async Task PutAsync(string name, Stream content) =>
            payload.Add((name, await bag.PutAsync(name, content, cancel)));
    }

    /// <summary>
    /// Where one of each content is asked for, takes the families out of the bag whose first document is a duplicate.
    /// </summary>
    private static List<BundleDocument> LeaveOut(Bag bag, MatterBundle bundle, List<BundleDocument> all)
    {
        if (!bundle.Options.OnePerContent)
        {
            return all;
        }

        var gone = all.Where(d => d.DuplicateOf is not null && d.Family == d.Id).Select(d => d.Id).ToHashSet();
        foreach (var document in all.Where(d => gone.Contains(d.Family)))
        {
            Remove(bag, document);
        }

        return [.. all.Select(d => gone.Contains(d.Family) ? d with { File = null, TextFile = null } : d)];
    }

    private static void Remove(Bag bag, BundleDocument document)
    {
        bag.Remove(document.File!);
        if (document.TextFile is { } text)
        {
            bag.Remove(text);
        }
    }

    /// <summary>
    /// Takes out of the bag what the matter's tags withhold. What is withheld is noted before its files go, so that a run
    /// that was cut off withholds it too, whatever was coded since.
    /// </summary>
    private async Task WithholdAsync(
        JobRun run,
        Bag bag,
        MatterBundle bundle,
        List<BundleItem> rows,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var why = await BundleCoding.WithheldAsync(rows, bundle.MatterId, db, cancel);
        foreach (var row in rows.Where(r => r.Documents?.Any(d => why.ContainsKey(d.Id)) == true))
        {
            row.Documents = [.. row.Documents!.Select(d => d with { Withheld = why.GetValueOrDefault(d.Id) })];
        }

        foreach (var portion in rows.Where(r => r.Documents?.Any(d => d.Withheld is not null) == true).Chunk(Portion))
        {
            await NoteAsync(
                run,
                bundle,
                portion.ToDictionary(r => r.ItemId, r => (r.Documents?.ToList(), r.Left)),
                cancel
            );
        }

        foreach (var document in rows.SelectMany(r => r.Documents ?? []).Where(d => d.Withheld is not null))
        {
            Remove(bag, document);
        }
    }

    private static string Duplicates(List<BundleDocument> documents) =>
        BundleLoadFile.Table(
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

    private static MemoryStream Utf8(string text) => new(Encoding.UTF8.GetBytes(text));

    /// <summary>
    /// All messages of the bag as one mailbox (RFC 4155).
    /// </summary>
    private static FileStream MailboxOf(Bag bag, IEnumerable<BundleDocument> messages)
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
            using var content = bag.Open(message.File!);
            MailStore.Write(
                content,
                message.From,
                message.Sent is { } sent ? OffsetDateTimePattern.GeneralIso.Parse(sent).Value.ToInstant() : null,
                box
            );
        }

        box.Seek(0, SeekOrigin.Begin);
        return box;
    }

    /// <summary>
    /// What was done in the matter, entry by entry, as a table and as an export with proofs that can be checked without
    /// the product.
    /// </summary>
    /// <summary>
    /// What was done with the content that is handed over. What the matter looked for, who works on it, whom it notified and
    /// how it codes is its own work, and none of the other side's business.
    /// </summary>
    private static readonly string[] Handling =
    [
        "order-applied",
        "copied-to-safekeeping",
        "pinned",
        "held-items-changed",
        "container-stays",
        "released",
        "release-undone",
        "bundle-asked",
        "bundle-made",
        "bundle-taken",
    ];

    private (string Table, string Json) Custody(WideKeelDb db, long matter)
    {
        db.Database.OpenConnection();
        var subject = MatterDoor.Text(matter);
        var entries = db
            .Ledger.AsNoTracking()
            .Where(e => e.SubjectKind == "matter" && e.SubjectId == subject && Handling.Contains(e.Verb))
            .OrderBy(e => e.Sequence)
            .ToList();
        var json = LedgerEndpoints.ExportOf(
            (SqliteConnection)db.Database.GetDbConnection(),
            heads,
            clock.GetCurrentInstant(),
            [.. entries.Select(e => (e.Sequence, e.Body, false))]
        );
        return (
            BundleLoadFile.Table(
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
