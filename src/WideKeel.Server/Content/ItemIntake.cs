using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Sensitive;
using WideKeel.Server.Jobs;
using WideKeel.Server.Matters;
using WideKeel.Server.Retention;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Content;

/// <summary>What is done with an item that arrives or changes, whichever way it came: a scan of its source, or a person at work in the workspace.</summary>
internal static class ItemIntake
{
    /// <summary>Lower-case extension; empty when there is none that looks like one.</summary>
    public static string TypeOf(string path)
    {
        var extension = Path.GetExtension(path).TrimStart('.').ToLowerInvariant();
        return extension.Length <= 10 && extension.All(char.IsAsciiLetterOrDigit) ? extension : "";
    }

    public static void Fill(Item item, Found.File file, string hash, Extracted text, Calendar calendar)
    {
        item.Title = text.Title ?? Path.GetFileName(file.Path);
        item.Type = TypeOf(file.Path);
        item.Author = text.Author;
        item.Owner = text.Owner;
        item.Subject = text.Subject;
        item.Thread = text.Thread;
        item.Attachments = text.Attachments.Count == 0 ? null : string.Join('\n', text.Attachments);
        item.Bytes = file.Bytes;
        item.Hash = hash;
        item.Modified = calendar.DateOf(file.Modified);
        // The document's own word comes first; a copied file's birth time is that of the copy, so the earlier of the two times counts.
        item.Created = text.Created ?? calendar.DateOf(Instant.Min(file.Born, file.Modified));
        item.ModifiedTicks = file.Modified.ToUnixTimeTicks();
    }

    /// <summary>Writes what was read of items: texts, dates, fields, finds and words. Their own rows are written.</summary>
    /// <param name="areNew">Nothing was read of them before.</param>
    public static async Task WriteTextsAsync(
        WriteSession session,
        IReadOnlyCollection<(Item Item, Reading Read)> items,
        bool areNew,
        CancellationToken cancel
    )
    {
        if (!areNew && items.Count > 0)
        {
            var ids = items.Select(i => i.Item.Id).ToList();
            await session.Db.ItemTexts.Where(t => ids.Contains(t.ItemId)).ExecuteDeleteAsync(cancel);
            await session.Db.ItemDates.Where(d => ids.Contains(d.ItemId)).ExecuteDeleteAsync(cancel);
            await session.Db.ItemFields.Where(f => ids.Contains(f.ItemId)).ExecuteDeleteAsync(cancel);
            await session.Db.ItemSensitives.Where(s => ids.Contains(s.ItemId)).ExecuteDeleteAsync(cancel);
        }

        BulkInsert.Insert(
            session,
            items.Select(i => new ItemText
            {
                ItemId = i.Item.Id,
                Text = i.Read.Text.Text,
                Limit = i.Read.Text.Limit,
            })
        );
        BulkInsert.Insert(
            session,
            items.SelectMany(i =>
                i.Read.Text.Dates.Select(d => new ItemDate
                {
                    ItemId = i.Item.Id,
                    Name = d.Key,
                    Date = d.Value,
                })
            )
        );
        BulkInsert.Insert(
            session,
            items.SelectMany(i =>
                i.Read.Text.Fields.Select(f => new ItemField
                {
                    ItemId = i.Item.Id,
                    Name = f.Key,
                    Value = f.Value,
                })
            )
        );
        BulkInsert.Insert(session, items.SelectMany(i => KindSet.CountsOf(i.Item.Id, i.Read.Finds)));
        FullText.Put(session, items.Select(i => (i.Item, i.Read.Folded)), areNew);
    }

    /// <summary>Standings, filing and holds of what arrived or changed; its rows and texts are written.</summary>
    public static async Task SettleAsync(
        WriteSession session,
        List<Item> changed,
        Calendar calendar,
        CancellationToken cancel
    )
    {
        await session.Db.SaveChangesAsync(cancel);
        await ReevaluateAsync(session, changed, calendar);
        await FileAsync(session, [.. changed.Where(i => i.SeriesId is null)], calendar, cancel);
        await HoldAsync(session, changed, calendar.Today, cancel);
    }

    /// <summary>What matches a hold order in force is held from now on, whatever becomes of it.</summary>
    private static async Task HoldAsync(
        WriteSession session,
        List<Item> changed,
        LocalDate today,
        CancellationToken cancel
    )
    {
        var standing = await StandingHolds.LoadAsync(session.Db, today, cancel);
        if (standing.IsEmpty)
        {
            return;
        }

        var held = false;
        foreach (var (item, arrival) in await StandingHolds.ArrivalsAsync(session.Db, changed, cancel))
        {
            var orders = standing.Matching(arrival);
            Holds.Hold(session, item.Id, orders);
            held |= orders.Count > 0;
        }

        if (held)
        {
            await JobBoard.AddAsync(session, JobBoard.CaptureKind, 0, "Copies into safekeeping", null, "scan");
        }
    }

    /// <summary>The same for items that were filed, where an order asks for the series.</summary>
    public static async Task HoldFiledAsync(
        WriteSession session,
        IEnumerable<long> ids,
        LocalDate today,
        CancellationToken cancel
    )
    {
        if (
            await session.Db.HoldOrders.AnyAsync(o => o.State == Core.Matters.OrderState.InForce, cancel)
            && (await StandingHolds.LoadAsync(session.Db, today, cancel)).LooksAt(Core.Query.QueryIndex.Series)
        )
        {
            foreach (var portion in ids.Chunk(1_000))
            {
                await HoldAsync(
                    session,
                    await session.Db.Items.AsNoTracking().Where(i => portion.Contains(i.Id)).ToListAsync(cancel),
                    today,
                    cancel
                );
            }
        }
    }

    private static async Task ReevaluateAsync(WriteSession session, List<Item> changed, Calendar calendar)
    {
        var ruling = await Ruling.LoadForAsync(session.Db, calendar.Evaluator, changed);
        var ids = new ItemFilter(Units: null) { Ids = [.. changed.Select(i => i.Id)] };
        ItemScan.WriteStandings(session, ruling, ids.Where(), c => ids.Bind(c, 0));
        if (changed.Any(i => ruling.RuleOf(i.SeriesId) is not null || ruling.BlanketsOf(i.ContainerId).Length > 0))
        {
            await JobBoard.AddAsync(session, JobBoard.CaptureKind, 0, "Copies into safekeeping", null, "scan");
        }
    }

    /// <summary>Files what arrived: by the default of its folder or container, else by the rules that are in force.</summary>
    private static async Task FileAsync(
        WriteSession session,
        List<Item> unfiled,
        Calendar calendar,
        CancellationToken cancel
    )
    {
        var places = unfiled.Select(i => i.ContainerId).Distinct().ToList();
        var defaults = await session
            .Db.FilingDefaults.Include(d => d.Series)
            .Where(d => places.Contains(d.ContainerId) && d.Series!.State != SeriesState.Retired)
            .ToListAsync(cancel);
        if (defaults.Count > 0)
        {
            var ruling = await Ruling.LoadForAsync(
                session.Db,
                calendar.Evaluator,
                unfiled,
                defaults.Select(d => d.SeriesId)
            );
            var units = await session
                .Db.Containers.Where(c => places.Contains(c.Id))
                .Join(session.Db.Units, c => c.UnitId, u => u.Id, (c, u) => new { c.Id, u.Path })
                .ToDictionaryAsync(c => c.Id, c => c.Path, cancel);
            var placed = unfiled
                .Select(i => (Item: i, Default: FilingDefaultEndpoints.Of(defaults, i)))
                .Where(i => i.Default is not null)
                .ToList();
            foreach (var group in placed.GroupBy(i => i.Default!.Series!))
            {
                await FilingEndpoints.ApplyAsync(
                    session,
                    [
                        .. group.Select(i => new FilingEndpoints.FiledItem(
                            i.Item.Id,
                            null,
                            units[i.Item.ContainerId],
                            Core.Content.Grade.None
                        )),
                    ],
                    group.Key,
                    "default of its place",
                    FiledHow.Default,
                    null,
                    ruling,
                    cancel
                );
            }

            unfiled = [.. unfiled.Except(placed.Select(i => i.Item))];
        }

        var rules = await session
            .Db.FilingRules.Include(r => r.Series)
            .Where(r => r.State == FilingRuleState.Active)
            .OrderByDescending(r => r.Priority)
            .ThenBy(r => r.Id)
            .ToListAsync(cancel);
        if (rules.Count > 0 && unfiled.Count > 0)
        {
            await FilingRuleJob.FileAsync(
                session,
                rules,
                [.. unfiled.Select(i => i.Id)],
                unfiled.Count,
                calendar,
                cancel
            );
        }
    }
}

/// <summary>What was read of an item's content: its text with fields, the finds in it, and its words as the index takes them.</summary>
internal sealed record Reading(Extracted Text, IReadOnlyList<SensitiveFind> Finds, string Folded)
{
    public static Reading Of(Extracted text, SensitiveScan scan) =>
        new(text, scan.FindIn(text.Text), Core.Query.Words.Folded(text.Text));
}
