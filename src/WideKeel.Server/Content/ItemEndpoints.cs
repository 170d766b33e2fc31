using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Query;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Ledger;
using WideKeel.Server.People;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Content;

public sealed record SeriesRef(long Id, string Code, string Title);

/// <summary>
/// The marks of a tideline: where the clock starts, where it is cut off, until when the item is kept.
/// </summary>
/// <param name="KeepUntil">A date, <c>permanent</c>, <c>awaiting-event</c> or null.</param>
public sealed record TidelineView(LocalDate? Start, LocalDate? Cutoff, string? KeepUntil, LocalDate? DisposableFrom);

public sealed record ItemRow(
    long Id,
    string Title,
    string Path,
    long ContainerId,
    string Container,
    string Source,
    string Unit,
    string Type,
    long Bytes,
    string? Author,
    string? Owner,
    LocalDate Created,
    LocalDate Modified,
    SeriesRef? Series,
    ItemState State,
    bool Missing,
    TidelineView Tideline
)
{
    /// <summary>Where the words of the query stand; null where no words were looked for.</summary>
    public FoundWords? Found { get; init; }

    /// <summary>Where it would stand without the hold; null unless it is held.</summary>
    public ItemState? Beneath { get; init; }
}

/// <summary>A hold over an item, for a member of its matter.</summary>
/// <param name="Until">It was released, and protects through this day; null while it is in force.</param>
public sealed record HoldRef(
    long MatterId,
    string Matter,
    string MatterName,
    int Order,
    string Name,
    bool Pinned,
    LocalDate? Until
);

/// <summary>A field whose value is no date.</summary>
public sealed record TextField(string Name, string Value);

/// <summary>What the query found in an item. Places are in UTF-16 units.</summary>
/// <param name="Snippet">Some of the text around the first words found; sensitive finds in it are masked. Null when
/// only the title has them.</param>
public sealed record FoundWords(IReadOnlyList<TextSpan> Title, string? Snippet, IReadOnlyList<TextSpan> SnippetMarks);

/// <param name="Next">To be sent as <c>cursor</c> for the following page; null on the last.</param>
/// <param name="Total">All that match, not only this page.</param>
public sealed record ItemPage(IReadOnlyList<ItemRow> Items, string? Next, long Total, long Bytes);

public sealed record DateField(string Name, LocalDate Date, bool CanBeCounted);

/// <param name="Words">Words of the item that speak for it, the strongest first.</param>
public sealed record SuggestedSeries(SeriesRef Series, double Confidence, IReadOnlyList<string> Words);

/// <param name="Subject">What events refer to it by.</param>
/// <param name="Attachments">Names of a message's attachments.</param>
/// <param name="Holds">Those of matters that the caller is a member of. It may be held without any of them.</param>
/// <param name="InThread">Other messages of the same conversation, within one's remit.</param>
/// <param name="Suggestion">Learnt from filing by hand, for one who may file it; null where it is filed, or nothing is
/// likely enough.</param>
public sealed record ItemDetail(
    ItemRow Item,
    string Hash,
    string? Subject,
    string? Thread,
    Grade Grade,
    string Standing,
    IReadOnlyList<Reason> Reasons,
    IReadOnlyList<DateField> Dates,
    int Copies,
    LocalDate? FiledOn,
    string? FiledBy,
    Instant? DestroyedAt,
    long? CertificateId,
    string? CertificateNumber,
    long? BatchId,
    string? TextLimit,
    SuggestedSeries? Suggestion,
    IReadOnlyList<string> Attachments,
    long InThread,
    IReadOnlyList<HoldRef> Holds,
    IReadOnlyList<TextField> Fields
)
{
    /// <summary>
    /// The dates that were fixed when it came under its rule, where the file says others now; by the code of their
    /// trigger.
    /// </summary>
    public IReadOnlyList<DeclaredDate> Declared { get; init; } = [];

    /// <summary>What was done on its source to a declared record; null when nothing was, or it is settled.</summary>
    public string? Altered { get; init; }
}

/// <param name="Title">What a clause counts from: Created, Last modified, or a field.</param>
/// <param name="Date">The declared one, from which its rule counts.</param>
public sealed record DeclaredDate(string Title, LocalDate Date);

/// <param name="Kind"><c>text</c>, <c>html</c>, <c>image</c> or <c>none</c>.</param>
/// <param name="Marks">Words of the query within a text.</param>
/// <param name="Finds">Sensitive finds within a text, for those who may know of them; what they hide is masked in the
/// text.</param>
public sealed record Preview(string Kind, string? Content, string? Note)
{
    public IReadOnlyList<TextSpan> Marks { get; init; } = [];

    public IReadOnlyList<FindMark> Finds { get; init; } = [];
}

public static class ItemEndpoints
{
    /// <summary>Items that a query is taken to find few of.</summary>
    private const int FewRows = 2_000;

    private const int MostRows = 500;
    private const int SheetPortion = 2_000;
    private const long MostImageBytes = 5_000_000;

    private static readonly Dictionary<string, string> ImageTypes = new()
    {
        ["png"] = "image/png",
        ["jpg"] = "image/jpeg",
        ["jpeg"] = "image/jpeg",
        ["gif"] = "image/gif",
        ["webp"] = "image/webp",
    };

    /// <summary>The columns of a sheet: header, and what of a row stands beneath it.</summary>
    private static readonly (string Header, Func<ItemRow, object?> Read)[] Sheet =
    [
        ("id", i => i.Id),
        ("title", i => i.Title),
        ("path", i => i.Path),
        ("source", i => i.Source),
        ("container", i => i.Container),
        ("unit", i => i.Unit),
        ("type", i => i.Type),
        ("bytes", i => i.Bytes),
        ("author", i => i.Author),
        ("owner", i => i.Owner),
        ("created", i => i.Created),
        ("modified", i => i.Modified),
        ("series", i => i.Series?.Code),
        ("state", i => i.State.Word()),
        ("keepUntil", i => i.Tideline.KeepUntil),
        ("disposableFrom", i => i.Tideline.DisposableFrom),
    ];

    public static void MapItems(this IEndpointRouteBuilder api)
    {
        api.MapGet("/items", List).Requires(Right.ReadContent);
        api.MapGet("/items.csv", Csv).Requires(Right.ReadContent);
        api.MapGet("/items.xlsx", Xlsx).Requires(Right.ReadContent);
        api.MapGet("/items/facets", CountFacets).Requires(Right.ReadContent);
        api.MapGet("/items/{id:long}", Show).Requires(Right.ReadContent);
        api.MapGet("/items/{id:long}/preview", PreviewOf).Requires(Right.ReadContent);
        api.MapGet("/items/{id:long}/history", History).Requires(Right.ReadContent);
    }

    // Two sets of parameters in one handler make the description of the API ask for a body, so these take their
    // services one by one.
    private static async Task<Reply<ItemPage>> List(
        [AsParameters] ItemQuery query,
        string? sort,
        string? cursor,
        int? limit,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    ) =>
        await query.ToFilterAsync(caller, db, calendar) is var filter && filter.Refusal is { } refusal
            ? refusal
            : await PageAsync(filter.Value, sort, cursor, Math.Clamp(limit ?? 100, 1, MostRows), db, calendar);

    private static async Task<IResult> Csv(
        [AsParameters] ItemQuery query,
        string? sort,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        HttpContext http,
        CancellationToken cancel
    )
    {
        var filter = await ToSheetAsync(query, sort, caller, db, calendar);
        return filter.Refusal is { } refusal
            ? (Reply<ItemPage>)refusal
            : await CsvAnswer.WriteAsync(
                http,
                "items.csv",
                [.. Sheet.Select(c => c.Header)],
                SheetRowsAsync(filter.Value, sort, db, calendar),
                cancel
            );
    }

    private static async Task<IResult> Xlsx(
        [AsParameters] ItemQuery query,
        string? sort,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        HttpContext http,
        CancellationToken cancel
    )
    {
        var filter = await ToSheetAsync(query, sort, caller, db, calendar);
        if (filter.Refusal is { } refusal)
        {
            return (Reply<ItemPage>)refusal;
        }

        await db.Database.OpenConnectionAsync(cancel);
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        return Count(filter.Value, connection, calendar.Today.ToDayNumber()).Items > XlsxAnswer.MostRows
            ? (Reply<ItemPage>)
                new Refusal(
                    "sheet-too-long",
                    null,
                    $"A spreadsheet holds {Wording.Number(XlsxAnswer.MostRows)} items at most; narrow the list, or take it as CSV."
                )
            : await XlsxAnswer.WriteAsync(
                http,
                "items.xlsx",
                [.. Sheet.Select(c => c.Header)],
                SheetRowsAsync(filter.Value, sort, db, calendar),
                cancel
            );
    }

    /// <summary>The filter of a sheet. An order that there is not is refused before the first byte is sent.</summary>
    private static async Task<Outcome<ItemFilter>> ToSheetAsync(
        ItemQuery query,
        string? sort,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var filter = await query.ToFilterAsync(caller, db, calendar);
        return filter.Refused ? filter
            : ItemOrder.Of(sort, filter.Value.Query).Refusal is { } noSort ? noSort
            : filter;
    }

    private static async IAsyncEnumerable<object?[]> SheetRowsAsync(
        ItemFilter filter,
        string? sort,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var ids = await IdsAsync(filter, ItemOrder.Of(sort, filter.Query).Value, db, calendar);
        foreach (var portion in ids.Chunk(SheetPortion))
        {
            var rows = await RowsAsync(portion, db, calendar);
            // What was destroyed since the ids were read is left out.
            foreach (var id in portion.Where(rows.ContainsKey))
            {
                yield return [.. Sheet.Select(c => c.Read(rows[id]))];
            }
        }
    }

    /// <summary>All items of a filter in an order, as they are at one moment.</summary>
    private static async Task<List<long>> IdsAsync(
        ItemFilter filter,
        ItemOrder order,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        await db.Database.OpenConnectionAsync();
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        command.CommandText = $"SELECT i.Id FROM item i {order.Join} WHERE {filter.Where()} ORDER BY {order.OrderBy}";
        filter.Bind(command, calendar.Today.ToDayNumber());
        using var reader = await command.ExecuteReaderAsync();
        List<long> ids = [];
        while (reader.Read())
        {
            ids.Add(reader.GetInt64(0));
        }

        return ids;
    }

    internal static async Task<Outcome<ItemPage>> PageAsync(
        ItemFilter filter,
        string? sort,
        string? cursor,
        int limit,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var order = ItemOrder.Of(sort, filter.Query);
        if (order.Refusal is { } noSort)
        {
            return noSort;
        }

        var at = cursor is null ? null : Cursor.Read(cursor);
        if (cursor is not null && (at is null || !order.Value.Accepts(at.Value)))
        {
            return new Refusal("cursor-malformed", "cursor", "This cursor is not one that the list gave out.");
        }

        await db.Database.OpenConnectionAsync();
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        var today = calendar.Today.ToDayNumber();
        var (total, bytes, few) = Count(filter, connection, today);
        using var command = connection.CreateCommand();
        command.CommandText = $"""
            SELECT i.Id, {order.Value.Expression} FROM item i {order.Value.Join}
            WHERE {(few is null ? filter.Where() : "i.Id IN (SELECT value FROM json_each($few))")} {order.Value.Beyond(
                at,
                command
            )} ORDER BY {order.Value.OrderBy} LIMIT $limit {order.Value.Offset(at)}
            """;
        command.Parameters.AddWithValue("$few", JsonSerializer.Serialize(few));
        filter.Bind(command, today);
        command.Parameters.AddWithValue("$limit", limit + 1);
        List<(long Id, object Value)> page = [];
        using (var reader = await command.ExecuteReaderAsync())
        {
            while (reader.Read())
            {
                page.Add((reader.GetInt64(0), reader.GetValue(1)));
            }
        }

        var more = page.Count > limit;
        var shown = page.Take(limit).ToList();
        var rows = await RowsAsync([.. shown.Select(p => p.Id)], db, calendar, filter.Query);
        return new ItemPage(
            [.. shown.Select(p => rows[p.Id])],
            more ? order.Value.Next(at, shown[^1].Value, shown[^1].Id, shown.Count) : null,
            total,
            bytes
        );
    }

    /// <summary>
    /// How many items a filter means and their bytes; and which they are where a query finds few, so that it is not
    /// asked again for the page.
    /// </summary>
    internal static (long Items, long Bytes, List<long>? Few) Count(
        ItemFilter filter,
        SqliteConnection connection,
        int today
    )
    {
        using var command = connection.CreateCommand();
        var listed = filter.Query is not null;
        command.CommandText =
            $"SELECT {(listed ? "i.Id, i.Bytes" : "COUNT(*), COALESCE(SUM(i.Bytes), 0)")} FROM item i WHERE {filter.Where()}";
        filter.Bind(command, today);
        using var reader = command.ExecuteReader();
        if (!listed)
        {
            reader.Read();
            return (reader.GetInt64(0), reader.GetInt64(1), null);
        }

        long items = 0,
            bytes = 0;
        List<long> few = [];
        while (reader.Read())
        {
            (items, bytes) = (items + 1, bytes + reader.GetInt64(1));
            if (items <= FewRows)
            {
                few.Add(reader.GetInt64(0));
            }
        }

        return (items, bytes, items <= FewRows ? few : null);
    }

    /// <summary>Full rows for some ids; the caller has made sure that they may be seen.</summary>
    internal static async Task<Dictionary<long, ItemRow>> RowsAsync(
        IReadOnlyCollection<long> ids,
        WideKeelDb db,
        OrganisationCalendar calendar,
        QuerySql? query = null
    )
    {
        var evaluator = calendar.Evaluator;
        var found = await (
            from item in db.Items.AsNoTracking()
            join container in db.Containers on item.ContainerId equals container.Id
            join unit in db.Units on container.UnitId equals unit.Id
            join source in db.Sources on container.SourceId equals source.Id
            join filed in db.Series on item.SeriesId equals filed.Id into series
            from own in series.DefaultIfEmpty()
            where ids.Contains(item.Id)
            select new Placed(
                item,
                container.Name,
                source.Name,
                unit.Name,
                own == null ? null : new(own.Id, own.Code, own.Title),
                db.HoldItems.On(evaluator.Today).Any(h => h.ItemId == item.Id)
            )
        ).ToListAsync();
        var foundWords = query is null
            ? []
            : await FoundText.InAsync(query.Query.Condition, [.. found.Select(f => f.Item)], db);
        var seriesIds = found.Select(f => f.Item.SeriesId).OfType<long>().Distinct().ToList();
        var ruling = await Ruling.LoadAsync(
            db,
            evaluator,
            seriesIds,
            [.. found.Select(f => f.Item.Subject).OfType<string>().Distinct()]
        );
        var dates = (
            ruling.Clocks.Fields.Count == 0
                ? []
                : await db.ItemDates.AsNoTracking().Where(d => ids.Contains(d.ItemId)).ToListAsync()
        ).ToLookup(d => d.ItemId);
        return found.ToDictionary(
            f => f.Item.Id,
            f =>
                RowOf(f, Deciding(ruling, f.Item, dates[f.Item.Id]), evaluator.Today) with
                {
                    Found = foundWords.GetValueOrDefault(f.Item.Id),
                }
        );
    }

    /// <summary>An item with the names of where it lies.</summary>
    private sealed record Placed(Item Item, string Container, string Source, string Unit, SeriesRef? Series, bool Held);

    private static ItemRow RowOf(Placed placed, ClauseDates clause, LocalDate today)
    {
        var item = placed.Item;
        return new(
            item.Id,
            item.Title,
            item.Path,
            item.ContainerId,
            placed.Container,
            placed.Source,
            placed.Unit,
            item.Type,
            item.Bytes,
            item.Author,
            item.Owner,
            item.Created,
            item.Modified,
            placed.Series,
            StateOf(item, today, placed.Held),
            item.MissingSince is not null,
            new(clause.Base, clause.Cutoff, KeepUntil.FromCode(item.KeepUntil).Text, item.DisposableFrom)
        )
        {
            Beneath = item.DestroyedAt is null && placed.Held ? StateOf(item, today, held: false) : null,
        };
    }

    internal static ItemFacts FactsOf(Item item, Ruling ruling, IEnumerable<ItemDate> dates) =>
        new(
            item.Created,
            item.Modified,
            item.FiledOn,
            item.ExtendedUntil,
            ruling.Clocks.Of(item.Subject, dates),
            KeepUntil.FromCode(item.Floor),
            DeclaredDates.Read(item.DeclaredDates)
        );

    /// <summary>
    /// The dates of the clause that decides until when the series keeps the item, or of the blanket that does where no
    /// series has a date.
    /// </summary>
    private static ClauseDates Deciding(Ruling ruling, Item item, IEnumerable<ItemDate> dates)
    {
        var facts = FactsOf(item, ruling, dates).Under(ruling.RuleOf(item.SeriesId));
        List<ClauseDates> all = [];
        foreach (var clause in ruling.RuleOf(item.SeriesId)?.Clauses ?? [])
        {
            all.Add(ruling.Evaluator.Dates(clause, facts));
        }

        foreach (var blanket in ruling.BlanketsOf(item.ContainerId))
        {
            all.Add(ruling.Evaluator.Dates(blanket, facts));
        }

        var until = KeepUntil.FromCode(item.KeepUntil).Date ?? item.DisposableFrom?.PlusDays(-1);
        return all.FirstOrDefault(d => d.Until == until && until is not null) is { Base: not null } deciding
            ? deciding
            : all.FirstOrDefault(d => d.Base is not null);
    }

    /// <summary>
    /// The same decision as <see cref="ItemFilter.StateSql"/>, for one item in hand; a test holds the two together.
    /// </summary>
    internal static ItemState StateOf(Item item, LocalDate today, bool held)
    {
        var keep = KeepUntil.FromCode(item.KeepUntil);
        return item switch
        {
            { DestroyedAt: not null } => item.HandedOver ? ItemState.HandedOver : ItemState.Destroyed,
            _ when held => ItemState.Held,
            { BatchId: not null } => ItemState.OnDocket,
            { KeepUntil: null, DisposableFrom: null } => item.AtEnd == EndAction.Nothing
                ? ItemState.NoRule
                : ItemState.AwaitingEvent,
            _ when keep.IsPermanent => ItemState.Permanent,
            _ when keep.IsAwaiting => ItemState.AwaitingEvent,
            { DisposableFrom: { } from } => from <= today ? ItemState.Due : ItemState.InTerm,
            _ => keep.Date < today ? ItemState.NoRule : ItemState.InTerm,
        };
    }

    private static async Task<Reply<IReadOnlyList<Facet>>> CountFacets(
        [AsParameters] ItemQuery query,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var filter = await query.ToFilterAsync(caller, db, calendar);
        return filter.Refusal is { } refusal
            ? refusal
            : (Outcome<IReadOnlyList<Facet>>)
                await Facets.CountAsync(
                    query,
                    filter.Value,
                    caller.May(Right.ReadSensitive) ? caller.Items(Right.ReadContent, Right.ReadSensitive) : null,
                    db,
                    calendar
                );
    }

    private static async Task<Reply<ItemDetail>> Show(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    ) => await ShowAsync(id, caller, db, calendar);

    private static async Task<Outcome<ItemDetail>> ShowAsync(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var item = await VisibleAsync(id, caller, db);
        if (item is null)
        {
            return Problems.NotFound("item");
        }

        var row = (await RowsAsync([id], db, calendar))[id];
        var dates = await db.ItemDates.AsNoTracking().Where(d => d.ItemId == id).OrderBy(d => d.Name).ToListAsync();
        var (code, facts, grade, reasons) = await RuledByAsync(item, dates, db, calendar);
        grade = row.State == ItemState.Held && grade == Grade.None ? Grade.Kept : grade;
        var holds = row.State == ItemState.Held ? await HoldsOfAsync(id, caller, db, calendar.Today) : [];
        var certificate = item.CertificateId is { } certificateId
            ? await db.Certificates.AsNoTracking().Where(c => c.Id == certificateId).Select(c => c.Number).SingleAsync()
            : null;
        return new ItemDetail(
            row,
            item.Hash,
            item.Subject,
            item.Thread,
            grade,
            (row.Beneath is null ? "" : Held(holds))
                + Sentence(
                    item,
                    code,
                    reasons.FirstOrDefault(r => r.Won),
                    row.Beneath ?? row.State,
                    calendar,
                    certificate
                ),
            reasons,
            [.. dates.Select(d => new DateField(d.Name, d.Date, PlausibleDate.Holds(d.Date, calendar.Today)))],
            await db.ItemCopies.CountAsync(c => c.ItemId == id),
            item.FiledOn,
            item.FiledBy,
            item.DestroyedAt,
            item.CertificateId,
            certificate,
            item.BatchId,
            await db.ItemTexts.Where(t => t.ItemId == id).Select(t => t.Limit).SingleOrDefaultAsync(),
            item is { SeriesId: null, DestroyedAt: null } ? await ItemSuggestion.ForAsync(item, caller, db) : null,
            item.Attachments?.Split('\n') ?? [],
            item.Thread is { } thread ? await InThreadAsync(thread, caller, db) - 1 : 0,
            holds,
            await FieldsOfAsync(id, db)
        )
        {
            Declared = DeclaredBeside(facts),
            Altered = item.AlteredHow,
        };
    }

    /// <summary>The grade of today, and every rule that has a say, the deciding one first.</summary>
    /// <returns>Neither for a stub. The code is that of the series that the item is filed under.</returns>
    private static async Task<(string? Code, ItemFacts Facts, Grade Grade, IReadOnlyList<Reason> Reasons)> RuledByAsync(
        Item item,
        List<ItemDate> dates,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var filed = await db.Series.AsNoTracking().SingleOrDefaultAsync(s => s.Id == item.SeriesId);
        var evaluator = calendar.Evaluator;
        var ruling = await Ruling.LoadAsync(
            db,
            evaluator,
            filed is null ? [] : [filed.Id],
            item.Subject is null ? [] : [item.Subject]
        );
        var facts = FactsOf(item, ruling, dates);
        if (item.DestroyedAt is not null)
        {
            return (filed?.Code, facts, Grade.None, []);
        }

        var series = filed is null ? null : new RuleInForce(filed.Code, filed.Title, ruling.RuleOf(filed.Id));
        var blankets = ruling.BlanketsOf(item.ContainerId);
        var extension = item.ExtendedUntil is { } until
            ? new Extension(until, item.ExtendedBy ?? "", item.ExtendedWhy ?? "")
            : null;
        return (
            filed?.Code,
            facts,
            evaluator.Evaluate(series?.Rule, blankets, facts).GradeOn(evaluator.Today),
            Reasons.WinnerFirst(Reasons.Explain(evaluator, series, blankets, facts, extension))
        );
    }

    private static Task<List<TextField>> FieldsOfAsync(long id, WideKeelDb db) =>
        db
            .ItemFields.AsNoTracking()
            .Where(f => f.ItemId == id)
            .OrderBy(f => f.Name)
            .Select(f => new TextField(f.Name, f.Value))
            .ToListAsync();

    private static List<DeclaredDate> DeclaredBeside(ItemFacts facts) =>
        [
            .. from d in facts.Declared?.All ?? []
            let trigger = Trigger.Read(d.Code)!.Value
            where trigger.Kind.DateOf(facts, trigger.Name) != d.Date
            select new DeclaredDate(trigger.Title, d.Date),
        ];

    /// <summary>The holds that the caller may know of: those of their own matters.</summary>
    internal static async Task<List<HoldRef>> HoldsOfAsync(long id, Caller caller, WideKeelDb db, LocalDate today)
    {
        var matters = caller.Matters.Keys.ToList();
        return matters.Count == 0
            ? []
            : await (
                from hold in db.HoldItems.AsNoTracking().On(today)
                join order in db.HoldOrders on hold.OrderId equals order.Id
                join matter in db.Matters on order.MatterId equals matter.Id
                where hold.ItemId == id && matters.Contains(matter.Id)
                orderby matter.Number, order.Number
                select new HoldRef(
                    matter.Id,
                    matter.Number,
                    matter.Name,
                    order.Number,
                    order.Name,
                    hold.Pinned,
                    hold.Until
                )
            ).ToListAsync();
    }

    /// <summary>Who may know is told which hold; everybody else, that there is a reason.</summary>
    private static string Held(List<HoldRef> holds)
    {
        var orders = string.Join(" and ", holds.Select(h => $"order {h.Order} of {h.Matter}"));
        return holds.Count == 0 ? "Kept for another reason. " : $"Held by {orders}. ";
    }

    private static async Task<long> InThreadAsync(string thread, Caller caller, WideKeelDb db)
    {
        var (visible, gone) = (caller.Units(Right.ReadContent), caller.Units(Right.ReadGone));
        return await db.Items.LongCountAsync(i =>
            i.Thread == thread
            && (visible == null || visible.Contains(i.Container!.UnitId))
            && (i.MissingSince == null || gone == null || gone.Contains(i.Container!.UnitId))
        );
    }

    /// <summary>What is said of an item on its page, for other pages that speak of it.</summary>
    internal static async Task<string> StandingAsync(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        // Written by the page itself, so that the two cannot tell different things.
        var shown = await ShowAsync(id, caller, db, calendar);
        return shown.Refused ? "" : shown.Value.Standing;
    }

    /// <summary>What rules the item and until when, in one sentence.</summary>
    /// <param name="code">Of the series that it is filed under.</param>
    /// <param name="winner">The rule that decides; null where none keeps.</param>
    private static string Sentence(
        Item item,
        string? code,
        Reason? winner,
        ItemState state,
        OrganisationCalendar calendar,
        string? certificate
    )
    {
        var day = LocalDatePattern.CreateWithInvariantCulture("d MMM uuuu");
        var last = KeepUntil.FromCode(item.KeepUntil).Date is { } date ? day.Format(date) : null;
        var from = item.DisposableFrom is { } first ? day.Format(first) : null;
        var what = EndOf(item);
        var by = Keeper(winner);
        string Gone() =>
            day.Format(calendar.DateOf(item.DestroyedAt!.Value))
            + (certificate is null ? "" : $", certificate {certificate}");
        var missing =
            item.MissingSince is { } since && item.DestroyedAt is null
                ? $" It has been gone from the share since {day.Format(calendar.DateOf(since))}."
                : "";
        return state switch
            {
                ItemState.Destroyed => $"Destroyed on {Gone()}.",
                ItemState.HandedOver => $"Handed over to the archive on {Gone()}.",
                ItemState.OnDocket => $"On the docket since it fell due on {from}; waiting for "
                    + $"{(item.AtEnd is EndAction.SignOff or EndAction.Transfer ? "signatures" : "its destruction")}.",
                ItemState.Due when by is null => $"It fell due on {from} for {what}.",
                ItemState.Due => $"{by} kept it through {last}; it is due for {what}.",
                ItemState.InTerm when item.KeepUntil is null || item.KeepUntil < calendar.Today.ToDayNumber() =>
                    $"Nothing keeps it; it falls due on {from} for {what}.",
                ItemState.InTerm => $"{by} keeps it through {last}.",
                _ => Open(state, by, last, code),
            } + missing;
    }

    /// <summary>Of an item that has no day on which it falls due.</summary>
    private static string Open(ItemState state, string? by, string? last, string? code) =>
        state switch
        {
            ItemState.Permanent => $"{by} keeps it permanently.",
            ItemState.AwaitingEvent when by is null =>
                "A blanket would destroy it, but it lacks the date to count from.",
            ItemState.AwaitingEvent => $"{by} keeps it; its clock waits for a date.",
            _ when by is not null => $"{by} kept it through {last}; nothing keeps or removes it now.",
            _ when code is not null => $"Filed under {code}, whose rule is not in force yet.",
            _ => "It is under no rule: none keeps it, none removes it.",
        };

    private static string? Keeper(Reason? winner) =>
        winner?.Kind switch
        {
            "extension" => "An extension",
            "blanket" => $"The blanket “{winner.Rule}”",
            _ => winner?.Rule,
        };

    private static string EndOf(Item item) =>
        item.AtEnd switch
        {
            EndAction.SignOff => "sign-off",
            EndAction.Transfer => "transfer to the archive",
            _ => "destruction without sign-off",
        };

    /// <summary>The item as it looks on its source: an image, or a page made safe.</summary>
    /// <param name="pages">Pages are shown as they look too.</param>
    /// <returns>Null, and perhaps why, where only its text can be shown.</returns>
    private static async Task<(Preview? Looks, string? Note)> LooksOfAsync(Item item, bool pages, ApiContext context)
    {
        var source = await context
            .Db.Sources.AsNoTracking()
            .SingleAsync(s => s.Id == item.Container!.SourceId, context.Cancel);
        try
        {
            await using var content = ContentSources.Of(source.Kind, source.Root).Open(item.Path);
            if (content is null)
            {
                return (null, "It is not on its source now; this is the text of the last scan.");
            }

            if (item.Bytes <= MostImageBytes && ImageTypes.TryGetValue(item.Type, out var type))
            {
                var bytes = Convert.ToBase64String(await BytesOfAsync(content, context.Cancel));
                return (new("image", $"data:{type};base64,{bytes}", null), null);
            }

            if (!pages || !IsPage(item))
            {
                return (null, null);
            }

            return await DocumentReaders.Shared.SanitizeAsync(content, context.Cancel) is { } page
                ? (new("html", page, null), null)
                : (null, "The page could not be made safe in time; this is its text.");
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return (null, $"{DirectoryShare.Words(e)} This is the text of the last scan.");
        }
    }

    private static async Task<Reply<Preview>> PreviewOf(long id, string? cql, [AsParameters] ApiContext context)
    {
        var item = await VisibleAsync(id, context.Caller, context.Db);
        if (item is null)
        {
            return Problems.NotFound("item");
        }

        if (item.DestroyedAt is not null)
        {
            return new Preview("none", null, "The content was destroyed; this stub and the certificate remain.");
        }

        var text = await context.Db.ItemTexts.AsNoTracking().SingleOrDefaultAsync(t => t.ItemId == id, context.Cancel);
        var finds = (await KindSet.ScanAsync(context.Db)).FindIn(text?.Text ?? "");
        var condition = FoundText.Asked(cql, context.Calendar.Today);
        IReadOnlyList<TextSpan> marks = condition is null
            ? []
            : QueryMatcher.Marks(condition, new() { Body = text?.Text }, QueryIndex.Text);
        // What must be masked or marked is so in the text; a page as it looks cannot be.
        var (looks, note) = await LooksOfAsync(item, marks.Count == 0 && !finds.Any(f => f.IsHidden), context);
        if (looks is not null)
        {
            return looks;
        }

        if (string.IsNullOrEmpty(text?.Text))
        {
            return new Preview("none", null, text?.Limit ?? "There is no text in it that can be shown.");
        }

        return new Preview("text", FoundText.Mask(text.Text, finds), note ?? text.Limit)
        {
            Marks = marks,
            Finds = context.Caller.May(Right.ReadSensitive, item.Container!.UnitId)
                ? [.. finds.Select(f => new FindMark(f.Kind, f.Confidence, f.Start, f.Length))]
                : [],
        };
    }

    private static bool IsPage(Item item) => item.Type is "html" or "htm" && item.Bytes <= TextExtraction.MaxCharacters;

    private static async Task<byte[]> BytesOfAsync(Stream content, CancellationToken cancel)
    {
        using var memory = new MemoryStream();
        await content.CopyToAsync(memory, cancel);
        return memory.ToArray();
    }

    private static async Task<Reply<IReadOnlyList<LedgerView>>> History(
        long id,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        await VisibleAsync(id, caller, db) is null
            ? Problems.NotFound("item")
            : (Outcome<IReadOnlyList<LedgerView>>)await LedgerEndpoints.HistoryAsync(db, "item", id, cancel);

    internal static async Task<Item?> VisibleAsync(long id, Caller caller, WideKeelDb db)
    {
        var item = await db.Items.AsNoTracking().Include(i => i.Container).SingleOrDefaultAsync(i => i.Id == id);
        return
            item is not null
            && caller.May(Right.ReadContent, item.Container!.UnitId)
            && (
                item.MissingSince is null
                || item.DestroyedAt is not null
                || caller.May(Right.ReadGone, item.Container.UnitId)
            )
            ? item
            : null;
    }
}
