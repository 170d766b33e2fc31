using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Sensitive;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

/// <summary>
/// What is done with an item that arrives or changes, whichever way it came: a scan of its source, or a person at work
/// in the workspace.
/// </summary>
internal static class ItemIntake
{
    /// <summary>Lower-case extension; empty when there is none that looks like one.</summary>
    public static string TypeOf(string path)
    {
        var extension = Path.GetExtension(path).TrimStart('.').ToLowerInvariant();
        return extension.Length <= 10 && extension.All(char.IsAsciiLetterOrDigit) ? extension : "";
    }

    public static void Fill(Item item, Found.File file, string hash, Extracted text, OrganisationCalendar calendar)
    {
        item.HasFormer |= item.Hash != hash;
        item.Title = text.Title ?? Path.GetFileName(file.Path);
        item.Type = TypeOf(file.Path);
        item.Author = text.Author;
        item.Owner = text.Owner;
        item.Subject = text.Subject;
        item.Thread = text.Thread;
        item.Attachments = text.Attachments.Count == 0 ? null : string.Join('\n', text.Attachments);
        item.Bytes = file.Bytes;
        item.Searchable = text.Searchable(file.Bytes);
        item.Hash = hash;
        item.Modified = calendar.DateOf(file.Modified);
        // The document's own word comes first; a copied file's birth time is that of the copy, so the earlier of the
        // two times counts.
        item.Created = text.Created ?? calendar.DateOf(Instant.Min(file.Born, file.Modified));
        item.ModifiedTicks = file.Modified.ToUnixTimeTicks();
    }

    /// <summary>
    /// Writes what was read of items: texts, dates, fields, finds and words. Their own rows are written.
    /// </summary>
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

    /// <summary>
    /// Puts an item at another path. In another container the rules of the new place apply from now on; until when the
    /// former place kept the item stays as its floor.
    /// </summary>
    public static async Task<Item> MoveAsync(
        WriteSession session,
        long id,
        string path,
        long container,
        LocalDate today,
        CancellationToken cancel
    )
    {
        var former = await session.Db.Items.AsNoTracking().SingleAsync(i => i.Id == id, cancel);
        // The path is set by a statement: nothing else may change it.
        await session
            .Db.Items.Where(i => i.Id == id)
            .ExecuteUpdateAsync(
                set => set.SetProperty(i => i.Path, path).SetProperty(i => i.ContainerId, container),
                cancel
            );
        var item = await session.Db.Items.SingleAsync(i => i.Id == id, cancel);
        await session.Db.Entry(item).ReloadAsync(cancel);
        var kept = KeepUntil.FromCode(former.KeepUntil);
        if (former.ContainerId != container && !kept.IsAwaiting && kept >= KeepUntil.On(today))
        {
            item.Floor = KeepUntil.Latest(kept, KeepUntil.FromCode(former.Floor)).Code;
        }

        return item;
    }

    /// <summary>
    /// Held by the index of holds, or by an order that is in force and has not come to all that existed before it.
    /// </summary>
    public static async Task<bool> IsHeldAsync(
        WriteSession session,
        Item item,
        LocalDate today,
        CancellationToken cancel
    ) =>
        (await Holds.HeldAsync(session.Db, [item.Id], today)).Count > 0
        || (await HoldBeforeChangeAsync(session, [item], today, cancel)).Count > 0;

    /// <summary>
    /// Before items change, what they say now is held by the orders that are in force over it and whose job has not come to
    /// them yet: a change that comes first takes nothing out of an order.
    /// </summary>
    /// <returns>Ids of those that such an order keeps.</returns>
    public static Task<IReadOnlyCollection<long>> HoldBeforeChangeAsync(
        WriteSession session,
        IReadOnlyCollection<Item> items,
        LocalDate today,
        CancellationToken cancel
    ) => session.Services.GetRequiredService<IUnappliedHolds>().HoldAsync(session, items, today, cancel);

    /// <summary>What the parts do with items that arrived or changed; their rows and texts are written.</summary>
    public static async Task SettleAsync(
        WriteSession session,
        List<Item> changed,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        await session.Db.SaveChangesAsync(cancel);
        foreach (var step in session.Services.GetServices<IItemArrival>())
        {
            await step.ArrivedAsync(new(session, changed, calendar, cancel));
        }
    }
}

/// <summary>
/// What a part does with items that arrive or change. The parts come in their order: first the rules, then the holds
/// that ask for what was filed.
/// </summary>
public interface IItemArrival : IContribution
{
    Task ArrivedAsync(ArrivingItems arriving);

    /// <summary>
    /// A container was found, in the change that writes its row and before its first item arrives.
    /// </summary>
    Task FoundAsync(WriteSession session, Container container, LocalDate today, CancellationToken cancel) =>
        Task.CompletedTask;

    /// <summary>After items were filed that had arrived before.</summary>
    Task FiledAsync(WriteSession session, IEnumerable<long> ids, LocalDate today, CancellationToken cancel) =>
        Task.CompletedTask;
}

/// <param name="Items">Rows that are written in the change of the session.</param>
public sealed record ArrivingItems(
    WriteSession Session,
    IReadOnlyList<Item> Items,
    OrganisationCalendar Calendar,
    CancellationToken Cancel
);

/// <summary>
/// Holds that are in force and do not stand in the index of holds yet: their job has not come to all that existed
/// before them.
/// </summary>
public interface IUnappliedHolds : IContribution
{
    /// <summary>Ids of those of the items that such a hold keeps.</summary>
    Task<IReadOnlyCollection<long>> OverAsync(
        WideKeelDb db,
        IReadOnlyCollection<Item> items,
        LocalDate today,
        CancellationToken cancel
    );

    /// <summary>Writes them into the index of holds at once, without waiting for the job.</summary>
    /// <returns>As <see cref="OverAsync"/>.</returns>
    Task<IReadOnlyCollection<long>> HoldAsync(
        WriteSession session,
        IReadOnlyCollection<Item> items,
        LocalDate today,
        CancellationToken cancel
    );
}

/// <summary>
/// What was read of an item's content: its text with fields, the finds in it, and its words as the index takes them.
/// </summary>
internal sealed record Reading(Extracted Text, IReadOnlyList<SensitiveFind> Finds, string Folded)
{
    public static Reading Of(Extracted text, SensitiveScan scan) =>
        new(text, scan.FindIn(text.Text), Core.Query.Words.Folded(text.Text));
}
