using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>Filing a selection under a series; a null series takes it off.</summary>
/// <param name="Fingerprint">Of the consequences that were on screen; not needed to ask for them.</param>
/// <param name="Why">Needed where a second person must agree.</param>
/// <param name="Confirmed">Filing under WORM cannot be undone: said again each time.</param>
public sealed record Filing(
    ItemQuery Selection,
    long? SeriesId,
    string? Fingerprint = null,
    string? Why = null,
    bool? Confirmed = null
);

/// <summary>Filing by hand: one item or thousands, from any list.</summary>
public static class FilingEndpoints
{
    public static void MapFilings(this IEndpointRouteBuilder api)
    {
        api.MapPost("/filings/consequences", Consequences).Requires(Right.FileContent);
        api.MapPost("/filings/consequences/{group}", ConsequencesGroup).Requires(Right.FileContent);
        api.MapPost("/filings", File).Requires(Right.FileContent);
    }

    private static async Task<Reply<ConsequencesView>> Consequences(
        Filing request,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    ) =>
        await PlanAsync(request.Selection, request.SeriesId, caller, db, calendar) is var plan
        && plan.Refusal is { } refusal
            ? refusal
            : (Outcome<ConsequencesView>)await plan.Value.FiguresAsync(db, caller);

    private static async Task<Reply<ItemPage>> ConsequencesGroup(
        string group,
        Filing request,
        string? cursor,
        [AsParameters] ApiContext context
    ) =>
        await PlanAsync(request.Selection, request.SeriesId, context.Caller, context.Db, context.Calendar) is var plan
        && plan.Refusal is { } refusal
            ? refusal
            : await plan.Value.Change.GroupAsync(group, cursor, context.Caller, context.Db, context.Calendar);

    private static async Task<Reply<ConsequencesView>> File(Filing request, [AsParameters] ApiContext context)
    {
        var done = await ActRunner.RunAsync(
            FileItemsHandler.Instance,
            new(request.Selection, request.SeriesId, request.Confirmed == true),
            context,
            request.Why,
            request.Fingerprint ?? ""
        );
        return done.Refusal is { } refusal
            ? refusal
            : (ConsequencesView)done.Value.Figures! with
            {
                ProposalId = done.Value.ProposalId,
                SecondPerson = done.Value.Condition,
            };
    }

    /// <summary>The code of a series; null for none.</summary>
    internal static Task<string?> CodeOfAsync(long? id, WideKeelDb db, CancellationToken cancel) =>
        db.Series.Where(s => s.Id == id).Select(s => (string?)s.Code).SingleOrDefaultAsync(cancel);

    /// <summary>Under which series some items are filed; null where they are under none.</summary>
    internal static async Task<string?> SeriesOfAsync(long[] items, ActGround ground)
    {
        HashSet<string> codes = [];
        foreach (var portion in items.Chunk(5_000))
        {
            codes.UnionWith(
                await ground
                    .Db.Items.Where(i => portion.Contains(i.Id))
                    .Join(ground.Db.Series, i => i.SeriesId, s => s.Id, (_, s) => s.Code)
                    .Distinct()
                    .ToListAsync(ground.Cancel)
            );
        }

        return codes.Count == 0 ? null : string.Join(", ", codes.Order(StringComparer.Ordinal));
    }

    /// <summary>
    /// What filing a selection would do to the items: to those within the caller's remit where an act is written or seen by
    /// its person, to all of them where a proposal is read.
    /// </summary>
    internal static async Task<RuleChange> ChangeOfAsync(ItemQuery selection, long? seriesId, ActGround ground)
    {
        var filter = ground is ActContext context
            ? (await selection.ToFilterAsync(context.Caller, ground.Db, ground.Calendar, Right.FileContent)).Value
            : selection.ToFilter(new(Units: null), null);
        var ruling = await Ruling.LoadAsync(ground.Db, ground.Calendar.Evaluator);
        return Filing(ruling, filter, seriesId, ground.Calendar);
    }

    private static RuleChange Filing(Ruling ruling, ItemFilter filter, long? seriesId, OrganisationCalendar calendar) =>
        new(ruling, ruling, filter.Where(), c => filter.Bind(c, calendar.Today.ToDayNumber()), _ => seriesId);

    /// <summary>
    /// Why items of a batch may not be marked to be filed under this series, or null. Whoever signs the batch agrees to
    /// it, so that declared records need no further person.
    /// </summary>
    internal static async Task<Refusal?> RefilingRefusalAsync(
        WriteSession session,
        long? seriesId,
        long[] items,
        long? from,
        Caller caller,
        CancellationToken cancel
    )
    {
        var target = await session.Db.Series.AsNoTracking().SingleOrDefaultAsync(s => s.Id == seriesId, cancel);
        if (target is null || !caller.MaySee(Right.ReadSchedule, target.UnitId))
        {
            return Problems.NotFound("series");
        }

        if (target.State == SeriesState.Retired)
        {
            return Retired(target);
        }

        if (target.Id == from || target.InForce?.Grade == Grade.Worm || target.Draft?.Grade == Grade.Worm)
        {
            return new(
                "refiling-refused",
                "seriesId",
                target.Id == from
                    ? $"They are filed under {target.Code} already."
                    : $"{target.Code} is WORM, and what comes under it is confirmed by itself. File them from their list."
            );
        }

        var filter = new ItemFilter(Units: null) { Ids = items };
        if (LosesItsEnd(session.Connection, filter.Where(), c => filter.Bind(c, 0), target) is { } loosened)
        {
            return loosened;
        }

        return OutsideSeries(session.Connection, filter, 0, caller.PathOf(target.UnitId)) is var outside and > 0
            ? new(
                "outside-the-series",
                "seriesId",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{outside:N0} of these items belong to units that {target.Code} does not cover."
                )
            )
            : null;
    }

    /// <summary>
    /// What a rule that only grows has kept is signed for at its end. A filing elsewhere keeps its date by the floor; it must
    /// not take the sign-off away either, or anybody could delete it once its term is over.
    /// </summary>
    /// <param name="where">The items, as a condition over <c>i</c>.</param>
    private static Refusal? LosesItsEnd(
        SqliteConnection connection,
        string where,
        Action<SqliteCommand> bind,
        Series? target
    )
    {
        // Without a series nobody destroys it either: it stays until it is filed again.
        if (target is null || target.InForce?.AtEnd is EndAction.SignOff or EndAction.Transfer)
        {
            return null;
        }

        using var command = connection.CreateCommand();
        command.CommandText = $"""
            SELECT COUNT(*) FROM item i WHERE i.BatchId IS NULL AND i.DestroyedAt IS NULL AND i.Floor IS NOT NULL
                AND i.SeriesId IS NOT $target AND i.AtEnd IN ({(int)EndAction.SignOff}, {(int)EndAction.Transfer})
                AND {where}
            """;
        bind(command);
        command.Parameters.AddWithValue("$target", target.Id);
        var items = (long)command.ExecuteScalar()!;
        return items == 0
            ? null
            : Refusal.Forbidden(
                "end-taken-away",
                "seriesId",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{items:N0} of these items {(items == 1 ? "has" : "have")} been kept by a rule that can only be "
                        + $"tightened, and {target.Code} would take away the "
                        + $"sign-off at the end. File them under a series that ends with sign-off or transfer. Nothing was filed."
                )
            );
    }

    /// <summary>What retiring a series does to its items: they stay, or go to a successor.</summary>
    internal static async Task<Outcome<Plan>> PlanRetirementAsync(
        Series series,
        long? successorId,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var selection = new ItemQuery { Series = [series.Id] };
        if (successorId is not null)
        {
            var planned = await PlanAsync(selection, successorId, caller, db, calendar);
            return planned.Refused ? planned
                : planned.Value.Declared > 0
                    ? Refusal.Forbidden(
                        "second-person-needed",
                        "successorId",
                        $"Declared records are filed under {series.Code}. Re-file them with a second person "
                            + $"first, or leave them where they are."
                    )
                : planned.Value.Target?.InForce?.Grade == Grade.Worm
                    ? new Refusal(
                        "confirmation-needed",
                        "successorId",
                        $"{planned.Value.Target.Code} is WORM, and what comes under it is confirmed by itself. "
                            + $"File these items there first, from their list, or leave them where they are."
                    )
                : planned;
        }

        var ruling = await Ruling.LoadAsync(db, calendar.Evaluator, [series.Id]);
        var filter = selection.ToFilter(caller.Items(Right.FileContent), null);
        return new Plan(
            series,
            new RuleChange(ruling, ruling, filter.Where(), c => filter.Bind(c, calendar.Today.ToDayNumber()))
        );
    }

    /// <summary>What filing a selection comes to, or why it may not be.</summary>
    internal static async Task<Outcome<Plan>> PlanAsync(
        ItemQuery selection,
        long? seriesId,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var target = await TargetAsync(seriesId, caller, db);
        if (target.Refused)
        {
            return target.Refusal!;
        }

        var selected = await selection.ToFilterAsync(caller, db, calendar, Right.FileContent);
        if (selected.Refusal is { } mistake)
        {
            return mistake;
        }

        var filter = selected.Value;
        var today = calendar.Today.ToDayNumber();
        await db.Database.OpenConnectionAsync();
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        if (
            target.Value is { } series
            && OutsideSeries(connection, filter, today, caller.PathOf(series.UnitId)) is var outside and > 0
        )
        {
            return new Refusal(
                "outside-the-series",
                "selection",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{outside:N0} of these items belong to units that {series.Code} does not cover. Nothing was filed."
                )
            );
        }

        var ruling = await Ruling.LoadAsync(db, calendar.Evaluator);
        return Allowed(new(target.Value, Filing(ruling, filter, target.Value?.Id, calendar)), connection);
    }

    /// <summary>The plan with what needs a second person, or why nobody may do it.</summary>
    private static Outcome<Plan> Allowed(Plan plan, SqliteConnection connection)
    {
        var (declared, worm) = plan.Guarded(connection);
        if (
            worm == 0
            && LosesItsEnd(connection, plan.Change.Where, c => plan.Change.Bind?.Invoke(c), plan.Target) is { } loosened
        )
        {
            return loosened;
        }

        return worm > 0
            ? Refusal.Forbidden(
                "grade",
                "selection",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{worm:N0} of these items {(worm == 1 ? "is" : "are")} WORM. "
                        + $"{GradeTable.Decide(Grade.Worm, false, Operation.TakeOff).Sentence} Nothing was filed."
                )
            )
            : plan with
            {
                Declared = declared,
            };
    }

    /// <param name="Declared">How many of the items are declared records under another series.</param>
    internal sealed record Plan(Series? Target, RuleChange Change, long Declared = 0)
    {
        /// <summary>Why declared records need a second person, as a sentence; null where none is among the items.</summary>
        public string? DeclaredCondition =>
            Declared == 0
                ? null
                : string.Create(
                    CultureInfo.InvariantCulture,
                    $"{Declared:N0} of them "
                        + $"{(Declared == 1 ? "is a declared record" : "are declared records")}: "
                        + $"{GradeTable.Decide(Grade.Declared, false, Operation.TakeOff).Sentence}"
                );

        public async Task<ConsequencesView> FiguresAsync(WideKeelDb db, Caller? viewer = null)
        {
            var figures = await Change.FiguresAsync(db, viewer);
            return figures with { SecondPerson = DeclaredCondition ?? figures.SecondPerson };
        }

        public Task FileAsync(ActContext context) =>
            ApplyAsync(
                context.Session,
                ItemsOf(context.Session),
                Target,
                context.Asker is null ? Filer.Of(context.Caller) : new(context.By, FiledHow.Hand, null),
                Change.Before,
                context.Cancel
            );

        public (long Declared, long Worm) Guarded(SqliteConnection connection)
        {
            using var command = connection.CreateCommand();
            command.CommandText =
                $"SELECT SUM(g = 'Declared'), SUM(g = 'Worm') FROM (SELECT {ItemFilter.GradeSql} AS g FROM item i WHERE {Touched})";
            Bind(command);
            using var reader = command.ExecuteReader();
            reader.Read();
            return (reader.IsDBNull(0) ? 0 : reader.GetInt64(0), reader.IsDBNull(1) ? 0 : reader.GetInt64(1));
        }

        /// <summary>
        /// The ids are settled before anything changes: once filed, an item may no longer match the selection ("under
        /// no series").
        /// </summary>
        public List<FiledItem> ItemsOf(WriteSession session)
        {
            using var select = session.Command(
                $"SELECT i.Id, i.SeriesId, u.Path, {ItemFilter.GradeSql} FROM item i JOIN container c ON c.Id = "
                    + $"i.ContainerId JOIN unit u ON u.Id = c.UnitId WHERE {Touched}"
            );
            Bind(select);
            using var reader = select.ExecuteReader();
            List<FiledItem> items = [];
            while (reader.Read())
            {
                items.Add(
                    new(
                        reader.GetInt64(0),
                        reader.IsDBNull(1) ? null : reader.GetInt64(1),
                        reader.GetString(2),
                        Enum.Parse<Grade>(reader.GetString(3))
                    )
                );
            }

            return items;
        }

        private string Touched =>
            $"i.BatchId IS NULL AND i.DestroyedAt IS NULL AND i.SeriesId IS NOT $target AND {Change.Where}";

        private void Bind(SqliteCommand command)
        {
            Change.Bind?.Invoke(command);
            command.Parameters.AddWithValue("$target", (object?)Target?.Id ?? DBNull.Value);
        }
    }

    /// <summary>An item that is about to be filed.</summary>
    /// <param name="Series">Under which it is filed now.</param>
    /// <param name="Unit">Path of its unit.</param>
    internal sealed record FiledItem(long Id, long? Series, string Unit, Grade Grade);

    /// <summary>Who or what files.</summary>
    /// <param name="Name">As the item's page names it.</param>
    /// <param name="PersonId">Whose decision alone it was; null where two people agreed.</param>
    internal sealed record Filer(string Name, FiledHow How, long? PersonId, long? RuleId = null)
    {
        public static Filer Of(Caller caller) => new(caller.Name, FiledHow.Hand, caller.PersonId);
    }

    /// <summary>
    /// Files items, whatever way they were found: notes each in the ledger, writes their standings, asks for copies.
    /// </summary>
    internal static async Task ApplyAsync(
        WriteSession session,
        IReadOnlyList<FiledItem> items,
        Series? series,
        Filer by,
        Ruling ruling,
        CancellationToken cancel
    )
    {
        var today = ruling.Evaluator.Today;
        var codes = await session.Db.Series.AsNoTracking().ToDictionaryAsync(s => s.Id, s => s.Code, cancel);
        using var update = session.Command(
            "UPDATE item SET SeriesId = $series, FiledOn = $on, FiledBy = $by, FiledById = $person, "
                + "FiledHow = $how, FilingRuleId = $rule WHERE Id = $id"
        );
        // What is taken off is filed by nobody.
        var filer = series is null ? null : by;
        update.Parameters.AddWithValue("$series", (object?)series?.Id ?? DBNull.Value);
        update.Parameters.AddWithValue("$on", filer is null ? DBNull.Value : today.ToDayNumber());
        update.Parameters.AddWithValue("$by", (object?)filer?.Name ?? DBNull.Value);
        update.Parameters.AddWithValue("$person", (object?)filer?.PersonId ?? DBNull.Value);
        update.Parameters.AddWithValue("$how", (object?)filer?.How.ToString() ?? DBNull.Value);
        update.Parameters.AddWithValue("$rule", (object?)filer?.RuleId ?? DBNull.Value);
        var id = update.Parameters.Add("$id", SqliteType.Integer);
        foreach (var item in items)
        {
            id.Value = item.Id;
            update.ExecuteNonQuery();
            session.Record(
                series is null ? "taken-off-series" : "filed",
                new("item", item.Id.ToString(CultureInfo.InvariantCulture), item.Unit),
                item.Series is { } former ? new JsonObject { ["series"] = codes[former] } : null,
                series is null ? null : Entry(series, by)
            );
        }

        foreach (var portion in items.Select(i => i.Id).Chunk(5_000))
        {
            var these = new ItemFilter(Units: null) { Ids = portion };
            ItemScan.WriteStandings(
                session,
                ruling,
                these.Where(),
                c => these.Bind(c, today.ToDayNumber()),
                by.PersonId
            );
        }

        foreach (var step in session.Services.GetServices<IItemArrival>())
        {
            await step.FiledAsync(session, items.Select(i => i.Id), today, cancel);
        }

        if (series?.InForce is not null && items.Count > 0)
        {
            var unit = await session.Db.Units.Where(u => u.Id == series.UnitId).Select(u => u.Path).SingleAsync(cancel);
            await JobBoard.AddAsync(session, CaptureJob.JobKind, series.Id, $"Copies for {series.Code}", unit, by.Name);
        }
    }

    /// <summary>Filing by hand has its person in the entry already.</summary>
    private static JsonObject Entry(Series series, Filer by) =>
        by.How == FiledHow.Hand
            ? new() { ["series"] = series.Code }
            : new()
            {
                ["series"] = series.Code,
                ["how"] = by.How.ToString().ToLowerInvariant(),
                ["by"] = by.Name,
            };

    private static Refusal Retired(Series series) =>
        Refusal.Conflict("series-retired", "seriesId", $"{series.Code} is retired; nothing new is filed under it.");

    private static async Task<Outcome<Series?>> TargetAsync(long? seriesId, Caller caller, WideKeelDb db)
    {
        if (seriesId is null)
        {
            return caller.May(Right.WriteSchedule)
                ? (Series?)null
                : Refusal.Forbidden("not-allowed", null, "Only those who write the schedule take items off a series.");
        }

        var series = await db.Series.AsNoTracking().SingleOrDefaultAsync(s => s.Id == seriesId);
        return series is null || !caller.MaySee(Right.ReadSchedule, series.UnitId) ? Problems.NotFound("series")
            : series.State == SeriesState.Retired ? Retired(series)
            : series;
    }

    private static long OutsideSeries(SqliteConnection connection, ItemFilter filter, int today, UnitPath unit)
    {
        using var command = connection.CreateCommand();
        command.CommandText = $"""
            SELECT COUNT(*) FROM item i JOIN container c ON c.Id = i.ContainerId JOIN unit u ON u.Id = c.UnitId
            WHERE substr(u.Path, 1, length($unit)) <> $unit AND {filter.Where()}
            """;
        filter.Bind(command, today);
        command.Parameters.AddWithValue("$unit", unit.Value);
        return Convert.ToInt64(command.ExecuteScalar(), CultureInfo.InvariantCulture);
    }
}
