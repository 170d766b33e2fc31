using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <param name="Matches">Items of the caller's remit that it finds and may file; null where it looks for sensitive data
/// and the caller may not know of it.</param>
/// <param name="Filed">Items of the caller's remit that it has filed.</param>
/// <param name="Precision">From the samples that people judged.</param>
public sealed record FilingRuleView(
    long Id,
    string Name,
    SeriesRef Series,
    FilingRuleDefinition Definition,
    int Priority,
    FilingRuleState State,
    string By,
    Instant At,
    long? Matches,
    long Filed,
    Precision Precision,
    bool MayWrite,
    long Revision
) : IRevised;

public sealed record FilingRuleText(string Name, long SeriesId, FilingRuleDefinition Definition, int Priority);

/// <param name="Right">A person's word on it; null while nobody judged.</param>
public sealed record FilingSample(ItemRow Item, bool? Right, string? By);

/// <param name="Right">Null takes the word back.</param>
public sealed record SampleMark(bool? Right);

/// <summary>Two active rules that would file the same items differently; the first wins.</summary>
public sealed record FilingClash(
    long WinnerId,
    string Winner,
    string WinnerSeries,
    long OtherId,
    string Other,
    string OtherSeries,
    long Items
);

/// <summary>
/// Conditions that file items by themselves: tried on samples first, then in force for what exists and what arrives.
/// </summary>
public static class FilingRuleEndpoints
{
    private const int MostSamples = 40;

    public static void MapFilingRules(this IEndpointRouteBuilder api)
    {
        api.MapGet("/filing-rules", List).Requires(Right.ReadSchedule);
        api.MapPost("/filing-rules", Create).Requires(Right.WriteSchedule);
        api.MapGet("/filing-rules/clashes", Clashes).Requires(Right.ReadSchedule);
        api.MapPut("/filing-rules/{id:long}", Save).Requires(Right.WriteSchedule);
        api.MapGet("/filing-rules/{id:long}/samples", Samples).Requires(Right.WriteSchedule);
        api.MapPut("/filing-rules/{id:long}/samples/{item:long}", Judge).Requires(Right.WriteSchedule);
        api.MapPost("/filing-rules/{id:long}/consequences", Consequences).Requires(Right.WriteSchedule);
        api.MapPost("/filing-rules/{id:long}/consequences/{group}", ConsequencesGroup).Requires(Right.WriteSchedule);
        api.MapPost("/filing-rules/{id:long}/activation", Activate).Requires(Right.WriteSchedule);
        api.MapPost("/filing-rules/{id:long}/stop", Stop).Requires(Right.WriteSchedule);
    }

    private static async Task<Reply<IReadOnlyList<FilingRuleView>>> List(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        List<FilingRuleView> views = [];
        foreach (
            var rule in await db
                .FilingRules.AsNoTracking()
                .Include(r => r.Series)
                .OrderByDescending(r => r.Priority)
                .ThenBy(r => r.Id)
                .ToListAsync(cancel)
        )
        {
            if (caller.MaySee(Right.ReadSchedule, rule.Series!.UnitId))
            {
                views.Add(await ViewAsync(rule, caller, db, calendar, cancel));
            }
        }

        return (Outcome<IReadOnlyList<FilingRuleView>>)views;
    }

    private static async Task<FilingRuleView> ViewAsync(
        FilingRule rule,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var marks = await db
            .FilingMarks.Where(m => m.RuleId == rule.Id)
            .GroupBy(m => m.Right)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
        var matching = await FilingRuleSql.OfAsync(db, rule, calendar, caller);
        var visible = caller.Units(Right.ReadContent);
        return new(
            rule.Id,
            rule.Name,
            new(rule.SeriesId, rule.Series!.Code, rule.Series.Title),
            rule.Definition,
            rule.Priority,
            rule.State,
            rule.By,
            rule.At,
            Hidden(rule.Definition, caller, calendar) ? null
                : matching.Refused ? 0
                : matching.Value.Count(db),
            await db.Items.LongCountAsync(
                i =>
                    i.FilingRuleId == rule.Id
                    && i.DestroyedAt == null
                    && (visible == null || visible.Contains(i.Container!.UnitId)),
                cancel
            ),
            Precision.Of(marks.GetValueOrDefault(true), marks.GetValueOrDefault(false)),
            caller.May(Right.WriteSchedule, rule.Series.UnitId),
            rule.Revision
        );
    }

    private static async Task<Reply<FilingRuleView>> Create(FilingRuleText request, [AsParameters] ApiContext context)
    {
        var created = await context.Writer.RunAsync<long>(
            context.Caller.Actor,
            async session =>
            {
                if (
                    await CheckAsync(request, null, context.Caller, session.Db, context.Calendar, context.Cancel) is
                    { } wrong
                )
                {
                    return wrong;
                }

                var rule = new FilingRule
                {
                    Name = request.Name.Trim(),
                    SeriesId = request.SeriesId,
                    Definition = request.Definition,
                    Priority = request.Priority,
                    By = context.Caller.Name,
                    At = session.Now,
                };
                session.Db.FilingRules.Add(rule);
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record(
                    "added",
                    await SubjectAsync(rule, session.Db, context.Caller, context.Cancel),
                    after: Entry(rule)
                );
                return rule.Id;
            },
            context.Cancel
        );
        return created.Refused
            ? created.Refusal!
            : await ShownAsync(created.Value, context.Caller, context.Db, context.Calendar, context.Cancel);
    }

    private static async Task<Reply<FilingRuleView>> Save(
        long id,
        FilingRuleText request,
        [AsParameters] ApiContext context
    ) =>
        await ChangeAsync(
            id,
            context,
            async (session, rule) =>
            {
                if (
                    await CheckAsync(request, id, context.Caller, session.Db, context.Calendar, context.Cancel) is
                    { } wrong
                )
                {
                    return wrong;
                }

                var before = Entry(rule);
                var same =
                    rule.SeriesId == request.SeriesId
                    && JsonSerializer.Serialize(rule.Definition, Json.Options)
                        == JsonSerializer.Serialize(request.Definition, Json.Options);
                (rule.Name, rule.SeriesId, rule.Definition, rule.Priority) = (
                    request.Name.Trim(),
                    request.SeriesId,
                    request.Definition,
                    request.Priority
                );
                if (!same)
                {
                    // What people judged was another rule; it is tried anew.
                    rule.State = FilingRuleState.Trial;
                    await session.Db.FilingMarks.Where(m => m.RuleId == id).ExecuteDeleteAsync(context.Cancel);
                }

                session.Record(
                    "changed",
                    await SubjectAsync(rule, session.Db, context.Caller, context.Cancel),
                    before,
                    Entry(rule)
                );
                return null;
            }
        );

    private static async Task<Reply<IReadOnlyList<FilingSample>>> Samples(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var rule = await db
            .FilingRules.AsNoTracking()
            .Include(r => r.Series)
            .SingleOrDefaultAsync(r => r.Id == id, cancel);
        if (rule is null || caller.Check(Right.WriteSchedule, rule.Series!.UnitId, "filing rule") is not null)
        {
            return Problems.NotFound("filing rule");
        }

        var matching = await FilingRuleSql.OfAsync(db, rule, calendar, caller);
        if (matching.Refusal is { } wrong)
        {
            return wrong;
        }

        var marks = await db
            .FilingMarks.AsNoTracking()
            .Where(m => m.RuleId == id)
            .ToDictionaryAsync(m => m.ItemId, cancel);
        var ids = matching.Value.Sample(db, MostSamples).Union(marks.Keys).ToList();
        var rows = await ItemEndpoints.RowsAsync(ids, db, calendar, matching.Value.Query);
        return (Outcome<IReadOnlyList<FilingSample>>)
            ids.Where(rows.ContainsKey)
                .Select(i => new FilingSample(
                    rows[i],
                    marks.GetValueOrDefault(i)?.Right,
                    marks.GetValueOrDefault(i)?.By
                ))
                .ToList();
    }

    /// <param name="right">Null takes the mark away.</param>
    private static async Task MarkAsync(
        WriteSession session,
        (long Rule, long Item) at,
        bool? right,
        string by,
        CancellationToken cancel
    )
    {
        var mark = await session.Db.FilingMarks.SingleOrDefaultAsync(
            m => m.RuleId == at.Rule && m.ItemId == at.Item,
            cancel
        );
        if (right is not { } answer)
        {
            if (mark is not null)
            {
                session.Db.FilingMarks.Remove(mark);
            }
        }
        else if (mark is null)
        {
            session.Db.FilingMarks.Add(
                new()
                {
                    RuleId = at.Rule,
                    ItemId = at.Item,
                    Right = answer,
                    By = by,
                    At = session.Now,
                }
            );
        }
        else
        {
            (mark.Right, mark.By, mark.At) = (answer, by, session.Now);
        }
    }

    private static async Task<Reply<FilingRuleView>> Judge(
        long id,
        long item,
        SampleMark request,
        [AsParameters] ApiContext context
    ) =>
        await ChangeAsync(
            id,
            context,
            async (session, rule) =>
            {
                var visible = context.Caller.Units(Right.ReadContent);
                if (
                    !await session.Db.Items.AnyAsync(
                        i =>
                            i.Id == item
                            && i.DestroyedAt == null
                            && (visible == null || visible.Contains(i.Container!.UnitId)),
                        context.Cancel
                    )
                )
                {
                    return Problems.NotFound("item");
                }

                await MarkAsync(session, (id, item), request.Right, context.Caller.Name, context.Cancel);
                session.Record(
                    "judged",
                    await SubjectAsync(rule, session.Db, context.Caller, context.Cancel),
                    after: new JsonObject { ["item"] = item, ["right"] = request.Right }
                );
                return null;
            },
            revises: false
        );

    private static async Task<Reply<ConsequencesView>> Consequences(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        await PlanAsync(id, caller, db, calendar, cancel) is var plan && plan.Refusal is { } refusal
            ? refusal
            : (Outcome<ConsequencesView>)await plan.Value.FiguresAsync(db, caller);

    private static async Task<Reply<ItemPage>> ConsequencesGroup(
        long id,
        string group,
        string? cursor,
        [AsParameters] ApiContext context
    ) =>
        await PlanAsync(id, context.Caller, context.Db, context.Calendar, context.Cancel) is var plan
        && plan.Refusal is { } refusal
            ? refusal
            : await plan.Value.GroupAsync(group, cursor, context.Caller, context.Db, context.Calendar);

    private static async Task<Outcome<RuleChange>> PlanAsync(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var rule = await db
            .FilingRules.AsNoTracking()
            .Include(r => r.Series)
            .SingleOrDefaultAsync(r => r.Id == id, cancel);
        return rule is null || caller.Check(Right.WriteSchedule, rule.Series!.UnitId, "filing rule") is not null
            ? Problems.NotFound("filing rule")
            : await ChangeOfAsync(rule, db, calendar);
    }

    private static Refusal? MayNotFileUnder(Series series) =>
        series.InForce?.Grade == Grade.Worm || series.Draft?.Grade == Grade.Worm
            ? new(
                "rule-files-worm",
                null,
                $"{series.Code} is WORM. What cannot be undone is filed by hand or by a folder's default, never by conditions."
            )
        : series.State == SeriesState.Retired
            ? Refusal.Conflict("series-retired", null, $"{series.Code} is retired; nothing new is filed under it.")
        : null;

    private static async Task<Reply<FilingRuleView>> Activate(
        long id,
        Activation request,
        [AsParameters] ApiContext context
    ) =>
        await ChangeAsync(
            id,
            context,
            async (session, rule) =>
            {
                if (MayNotFileUnder(rule.Series!) is { } not)
                {
                    return not;
                }

                var change = await ChangeOfAsync(rule, session.Db, context.Calendar);
                if (change.Refusal is { } wrong)
                {
                    return wrong;
                }

                if (
                    RuleChange.CheckSeen(await change.Value.FiguresAsync(session.Db), request.Fingerprint) is
                    { } changed
                )
                {
                    return changed;
                }

                (rule.State, rule.EffectById) = (FilingRuleState.Active, context.Caller.PersonId);
                session.Record(
                    "put-into-effect",
                    await SubjectAsync(rule, session.Db, context.Caller, context.Cancel),
                    after: Entry(rule),
                    reason: request.Why?.Trim()
                );
                await JobBoard.AddAsync(
                    session,
                    FilingRuleJob.JobKind,
                    id,
                    $"Filing by “{rule.Name}”",
                    context.Caller.PathOf(rule.Series!.UnitId).Value,
                    context.Caller.Name
                );
                return null;
            }
        );

    private static async Task<Reply<FilingRuleView>> Stop(long id, [AsParameters] ApiContext context) =>
        await ChangeAsync(
            id,
            context,
            async (session, rule) =>
            {
                session.Record(
                    "stopped",
                    await SubjectAsync(rule, session.Db, context.Caller, context.Cancel),
                    Entry(rule)
                );
                rule.State = FilingRuleState.Stopped;
                return null;
            }
        );

    private static async Task<Reply<IReadOnlyList<FilingClash>>> Clashes(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) => (Outcome<IReadOnlyList<FilingClash>>)await ClashesAsync(caller, db, calendar, cancel);

    /// <summary>Every two rules that are active or on trial and find the same items for different series.</summary>
    internal static async Task<List<FilingClash>> ClashesAsync(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var rules = (
            await db
                .FilingRules.AsNoTracking()
                .Include(r => r.Series)
                .Where(r => r.State != FilingRuleState.Stopped)
                .OrderByDescending(r => r.Priority)
                .ThenBy(r => r.Id)
                .ToListAsync(cancel)
        )
            .Where(r => caller.MaySee(Right.ReadSchedule, r.Series!.UnitId))
            .ToList();
        var found = new List<(FilingRule Rule, HashSet<long> Items)>();
        foreach (var rule in rules)
        {
            // Of two active rules the winner has filed what the other finds too.
            var matching = await FilingRuleSql.OfAsync(db, rule, calendar, caller, whoeverFiled: true);
            found.Add((rule, matching.Refused ? [] : [.. matching.Value.Ids(db)]));
        }

        return
        [
            .. from a in found
            from b in found.SkipWhile(f => f.Rule != a.Rule).Skip(1)
            where a.Rule.SeriesId != b.Rule.SeriesId
            let items = a.Items.Count(b.Items.Contains)
            where items > 0
            select new FilingClash(
                a.Rule.Id,
                a.Rule.Name,
                a.Rule.Series!.Code,
                b.Rule.Id,
                b.Rule.Name,
                b.Rule.Series!.Code,
                items
            ),
        ];
    }

    private static async Task<Outcome<RuleChange>> ChangeOfAsync(
        FilingRule rule,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var matching = await FilingRuleSql.OfAsync(db, rule, calendar);
        if (matching.Refusal is { } wrong)
        {
            return wrong;
        }

        var ruling = await Ruling.LoadAsync(db, calendar.Evaluator);
        return new RuleChange(ruling, ruling, matching.Value.Where, matching.Value.Bind, _ => rule.SeriesId);
    }

    private static async Task<Refusal?> CheckAsync(
        FilingRuleText text,
        long? id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        if (string.IsNullOrWhiteSpace(text.Name) || text.Name.Length > BlanketDefinition.MaxName)
        {
            return new("name-missing", "name", "A filing rule needs a name of at most 100 characters.");
        }

        var name = text.Name.Trim();
        if (await db.FilingRules.AnyAsync(r => r.Name == name && r.Id != id, cancel))
        {
            return Refusal.Conflict("code-taken", "name", $"There is a filing rule “{name}” already.");
        }

        if (text.Priority is < 0 or > 1000)
        {
            return new("priority-out-of-range", "priority", "A priority is 0 to 1,000; the higher wins.");
        }

        var series = await db.Series.AsNoTracking().SingleOrDefaultAsync(s => s.Id == text.SeriesId, cancel);
        return series is null || caller.Check(Right.WriteSchedule, series.UnitId, "series") is not null
                ? Problems.NotFound("series")
            : text.Definition is null
                ? new(
                    "rule-empty",
                    "query",
                    "A filing rule looks for something: write a query or choose a sensitive kind."
                )
            : text.Definition.Check(calendar.Today).Refusal
                ?? (
                    Hidden(text.Definition, caller, calendar)
                        ? Refusal.Forbidden(
                            "not-allowed",
                            "kinds",
                            "Your role does not include knowing where sensitive data lies, so no rule of yours can look for it."
                        )
                        : null
                );
    }

    /// <summary>To be shown what a rule finds by what is sensitive in it is to be told that it is there.</summary>
    private static bool Hidden(FilingRuleDefinition definition, Caller caller, OrganisationCalendar calendar) =>
        definition.LooksForSensitive(calendar.Today) && !caller.May(Right.ReadSensitive);

    /// <param name="revises">The caller names the revision that they change, and the rule has the next one then.</param>
    private static async Task<Reply<FilingRuleView>> ChangeAsync(
        long id,
        ApiContext context,
        Func<WriteSession, FilingRule, Task<Refusal?>> change,
        bool revises = true
    )
    {
        var (caller, cancel) = (context.Caller, context.Cancel);
        var done = await context.Writer.RunAsync<bool>(
            caller.Actor,
            async session =>
            {
                var rule = await session
                    .Db.FilingRules.Include(r => r.Series)
                    .SingleOrDefaultAsync(r => r.Id == id, cancel);
                if (rule is null || caller.Check(Right.WriteSchedule, rule.Series!.UnitId, "filing rule") is not null)
                {
                    return Problems.NotFound("filing rule");
                }

                if (
                    (
                        (revises ? Problems.CheckMatch(context.Http, rule.Revision) : null)
                        ?? await change(session, rule)
                    ) is
                    { } refusal
                )
                {
                    return refusal;
                }

                rule.Revision += revises ? 1 : 0;
                return true;
            },
            cancel
        );
        return done.Refused ? done.Refusal! : await ShownAsync(id, caller, context.Db, context.Calendar, cancel);
    }

    private static async Task<FilingRuleView> ShownAsync(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        await ViewAsync(
            await db.FilingRules.AsNoTracking().Include(r => r.Series).SingleAsync(r => r.Id == id, cancel),
            caller,
            db,
            calendar,
            cancel
        );

    private static async Task<LedgerSubject> SubjectAsync(
        FilingRule rule,
        WideKeelDb db,
        Caller caller,
        CancellationToken cancel
    ) =>
        new(
            "filing-rule",
            rule.Id.ToString(CultureInfo.InvariantCulture),
            caller
                .PathOf(await db.Series.Where(s => s.Id == rule.SeriesId).Select(s => s.UnitId).SingleAsync(cancel))
                .Value
        );

    private static JsonObject Entry(FilingRule rule) =>
        new()
        {
            ["name"] = rule.Name,
            ["seriesId"] = rule.SeriesId,
            ["priority"] = rule.Priority,
            ["state"] = rule.State.ToString(),
            ["definition"] = JsonSerializer.SerializeToNode(rule.Definition, Json.Options),
        };
}

/// <summary>
/// The items that a filing rule finds and may file: under no series, or filed by a rule of lower rank; within the unit
/// of its series.
/// </summary>
/// <param name="Query">For the words that are marked; null where it asks for kinds only.</param>
internal sealed record FilingRuleSql(QuerySql? Query, string Where, Action<SqliteCommand> Bind)
{
    /// <summary>
    /// Filing by hand and by a place's default stands; of two rules the higher priority files, of equals the older.
    /// </summary>
    private static string Free(bool whoeverFiled)
    {
        var others = whoeverFiled
            ? ""
            : """
                AND i.FilingRuleId IN (SELECT r.Id FROM filing_rule r
                    WHERE r.Priority < $priority OR (r.Priority = $priority AND r.Id > $rule))
                """;
        return $"""
            i.DestroyedAt IS NULL AND i.BatchId IS NULL AND (i.SeriesId IS NULL OR i.FilingRuleId = $rule
                OR (i.FiledHow = 'Rule' {others}))
            """;
    }

    /// <param name="caller">Only what this person may see; null for all that there is.</param>
    /// <param name="whoeverFiled">What it speaks of, also where another rule has filed it already.</param>
    public static async Task<Outcome<FilingRuleSql>> OfAsync(
        WideKeelDb db,
        FilingRule rule,
        OrganisationCalendar calendar,
        Caller? caller = null,
        bool whoeverFiled = false
    )
    {
        var compiled = rule.Definition.Check(calendar.Today);
        if (compiled.Refusal is { } wrong)
        {
            return wrong;
        }

        await db.Database.OpenConnectionAsync();
        QuerySql? query = null;
        if (compiled.Value is { } asked)
        {
            var translated = QuerySql.Translate((SqliteConnection)db.Database.GetDbConnection(), asked);
            if (translated.Refusal is { } tooWide)
            {
                return tooWide;
            }

            query = translated.Value;
        }

        var unit = await db
            .Units.Where(u => u.Id == db.Series.Where(s => s.Id == rule.SeriesId).Select(s => s.UnitId).Single())
            .Select(u => u.Path)
            .SingleAsync();
        var covered = await db.Units.Where(u => u.Path.StartsWith(unit)).Select(u => u.Id).ToListAsync();
        var visible = caller
            ?.Items(Right.ReadContent, rule.Definition.LooksForSensitive(calendar.Today) ? Right.ReadSensitive : null)
            .Units;
        var filter = new ItemFilter(visible is null ? covered : [.. visible.Intersect(covered)]) { Query = query };
        var kinds = rule.Definition.Kinds.Select(
            (kind, n) =>
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"EXISTS (SELECT 1 FROM item_sensitive f WHERE f.ItemId = i.Id AND f.Kind = $kind{n} "
                        + $"AND {FindsOf(kind.Least)} >= $count{n})"
                )
        );
        var today = Core.Time.DayNumber.ToDayNumber(calendar.Today);
        return new FilingRuleSql(
            query,
            string.Join(" AND ", kinds.Prepend($"({Free(whoeverFiled)})").Prepend(filter.Where())),
            command =>
            {
                filter.Bind(command, today);
                command.Parameters.AddWithValue("$rule", rule.Id);
                command.Parameters.AddWithValue("$priority", rule.Priority);
                BindKinds(command, rule.Definition.Kinds);
            }
        );
    }

    private static void BindKinds(SqliteCommand command, IReadOnlyList<WantedKind> kinds)
    {
        for (var n = 0; n < kinds.Count; n++)
        {
            var number = n.ToString(CultureInfo.InvariantCulture);
            command.Parameters.AddWithValue($"$kind{number}", kinds[n].Kind);
            command.Parameters.AddWithValue($"$count{number}", kinds[n].Count);
        }
    }

    /// <summary>The finds of one kind in one item that are at least so confident, as SQL over <c>item_sensitive f</c>.</summary>
    private static string FindsOf(Core.Sensitive.Confidence least) =>
        least switch
        {
            Core.Sensitive.Confidence.Possible => "f.Certain + f.Likely + f.Possible",
            Core.Sensitive.Confidence.Likely => "f.Certain + f.Likely",
            _ => "f.Certain",
        };

    public long Count(WideKeelDb db) => Read(db, "COUNT(*)", "")[0];

    public List<long> Ids(WideKeelDb db) => Read(db, "i.Id", "");

    /// <summary>Some of them, spread over all and the same every time.</summary>
    public List<long> Sample(WideKeelDb db, int most) =>
        Read(
            db,
            "i.Id",
            $"ORDER BY (i.Id * 2654435761) % 4294967296 LIMIT {most.ToString(CultureInfo.InvariantCulture)}"
        );

    private List<long> Read(WideKeelDb db, string what, string rest)
    {
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        command.Transaction = db.Database.CurrentTransaction is { } transaction
            ? (SqliteTransaction)
                Microsoft.EntityFrameworkCore.Storage.DbContextTransactionExtensions.GetDbTransaction(transaction)
            : null;
        command.CommandText = $"SELECT {what} FROM item i WHERE {Where} {rest}";
        Bind(command);
        using var reader = command.ExecuteReader();
        List<long> values = [];
        while (reader.Read())
        {
            values.Add(reader.GetInt64(0));
        }

        return values;
    }
}

/// <summary>
/// Files what exists by an active rule, portion by portion; what is filed is passed over, so that it can be cut off and
/// run again.
/// </summary>
public sealed class FilingRuleJob(IDbContextFactory<WideKeelDb> databases, Writer writer, OrganisationCalendar calendar)
    : IJob
{
    public static readonly JobKind JobKind = new("filing-rule", Changes: "items filing");
    private static readonly int Portion = Portions.Or(500);

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        long total;
        await using (var db = await databases.CreateDbContextAsync(cancel))
        {
            var rule = await db.FilingRules.AsNoTracking().SingleAsync(r => r.Id == run.Job.SubjectId, cancel);
            var matching = await FilingRuleSql.OfAsync(db, rule, calendar);
            total = matching.Refused ? 0 : matching.Value.Count(db);
        }

        long filed = 0;
        while (true)
        {
            var done = 0;
            await writer.RunAsync(
                run.Actor,
                async session =>
                    done = await FileAsync(
                        session,
                        [
                            await session
                                .Db.FilingRules.Include(r => r.Series)
                                .SingleAsync(r => r.Id == run.Job.SubjectId, cancel),
                        ],
                        null,
                        Portion,
                        calendar,
                        cancel
                    ),
                cancel
            );
            filed += done;
            if (done == 0)
            {
                return string.Create(CultureInfo.InvariantCulture, $"{filed:N0} filed.");
            }

            await run.ReportAsync(filed, total, null, cancel);
        }
    }

    private static List<FilingEndpoints.FiledItem> FoundBy(
        FilingRuleSql rule,
        WriteSession session,
        IReadOnlyCollection<long>? among,
        int most
    )
    {
        using var select = session.Command(
            $"""
            SELECT i.Id, i.SeriesId, u.Path FROM item i JOIN container c ON c.Id = i.ContainerId JOIN unit u ON u.Id = c.UnitId
            WHERE {rule.Where} AND i.FilingRuleId IS NOT $rule {(
                among is null ? "" : "AND i.Id IN (SELECT value FROM json_each($among))"
            )} ORDER BY i.Id LIMIT $most
            """
        );
        rule.Bind(select);
        select.Parameters.AddWithValue("$most", most);
        select.Parameters.AddWithValue("$among", JsonSerializer.Serialize(among ?? []));
        using var reader = select.ExecuteReader();
        List<FilingEndpoints.FiledItem> items = [];
        while (reader.Read())
        {
            items.Add(
                new(reader.GetInt64(0), reader.IsDBNull(1) ? null : reader.GetInt64(1), reader.GetString(2), Grade.None)
            );
        }

        return items;
    }

    /// <summary>Files what these rules find, highest priority first. Returns how many items were filed.</summary>
    /// <param name="rules">In the order of their rank.</param>
    /// <param name="among">Only these items; null for all.</param>
    internal static async Task<int> FileAsync(
        WriteSession session,
        IReadOnlyList<FilingRule> rules,
        IReadOnlyCollection<long>? among,
        int most,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var count = 0;
        foreach (
            var rule in rules.Where(r =>
                r.State == FilingRuleState.Active
                && r.Series!.State != SeriesState.Retired
                && r.Series.InForce?.Grade != Grade.Worm
            )
        )
        {
            var matching = await FilingRuleSql.OfAsync(session.Db, rule, calendar);
            if (matching.Refused)
            {
                continue;
            }

            var items = FoundBy(matching.Value, session, among, most);
            if (items.Count > 0)
            {
                var ids = items.Select(i => i.Id).ToList();
                var ruling = await Ruling.LoadForAsync(
                    session.Db,
                    calendar.Evaluator,
                    await session.Db.Items.AsNoTracking().Where(i => ids.Contains(i.Id)).ToListAsync(cancel),
                    rule.SeriesId
                );
                await FilingEndpoints.ApplyAsync(
                    session,
                    items,
                    rule.Series!,
                    new($"rule “{rule.Name}”", FiledHow.Rule, rule.EffectById, rule.Id),
                    ruling,
                    cancel
                );
                count += items.Count;
            }
        }

        return count;
    }
}
