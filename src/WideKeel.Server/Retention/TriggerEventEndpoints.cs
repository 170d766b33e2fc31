using System.Globalization;
using System.Text.Json.Nodes;
using CsvHelper;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Content;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <param name="Series">Codes of the series whose clocks it starts.</param>
/// <param name="Events">How many are known and not revoked.</param>
public sealed record TriggerEventTypeView(
    long Id,
    string Name,
    string Title,
    string Description,
    IReadOnlyList<string> Series,
    long Events,
    LocalDate? Latest,
    long Revision
) : IRevised;

public sealed record TriggerEventTypeText(string Name, string Title, string Description);

/// <param name="Counts">Of its type and subject it is the one that clocks go by.</param>
public sealed record TriggerEventView(
    long Id,
    string Type,
    string TypeTitle,
    string Subject,
    LocalDate Date,
    string Note,
    string? Reference,
    string ToldBy,
    Instant ToldAt,
    string? RevokedBy,
    Instant? RevokedAt,
    string? RevokedWhy,
    bool Counts
);

public sealed record TriggerEventPage(IReadOnlyList<TriggerEventView> Events, string? Next, long Total);

/// <summary>An outside fact to be told.</summary>
/// <param name="Type">Name of an event type.</param>
/// <param name="Subject">1 to 100 characters.</param>
/// <param name="Reference">The outside system's own number of it; told twice, it is one event.</param>
/// <param name="Fingerprint">Of the consequences that were on screen; a system that tells without looking leaves it
/// out.</param>
/// <param name="Why">Needed where a second person must agree; the note stands for it.</param>
public sealed record NewTriggerEvent(
    string Type,
    string Subject,
    LocalDate Date,
    string? Note = null,
    string? Reference = null,
    string? Fingerprint = null,
    string? Why = null
);

/// <param name="Fingerprint">As for telling.</param>
public sealed record Revocation(string Why, string? Fingerprint = null);

/// <param name="Csv">Columns type, subject, date, and perhaps note and reference; the first line names them.</param>
/// <param name="Fingerprint">Of the consequences that were on screen; null only asks for them.</param>
public sealed record EventsCsv(string Csv, string? Fingerprint = null, string? Why = null);

public sealed record RefusedLine(int Line, string Column, string Why);

/// <param name="Known">Lines that say what is known already.</param>
public sealed record TriggerEventsCsvView(
    int Added,
    int Known,
    IReadOnlyList<RefusedLine> Refused,
    ConsequencesView? Consequences,
    bool Applied
);

/// <summary>All that is known of one subject.</summary>
public sealed record SubjectView(string Subject, IReadOnlyList<TriggerEventView> Events, ItemPage Items);

/// <summary>Outside facts that start clocks: told by hand, by CSV, or by another system with an API key.</summary>
public static class TriggerEventEndpoints
{
    private const int MostRows = 200;
    private const int MostLines = 20_000;
    private const long MostTableBytes = 20_000_000;

    public static void MapTriggerEvents(this IEndpointRouteBuilder api)
    {
        api.MapGet("/trigger-event-types", Types).Requires(Right.ReadSchedule);
        api.MapPost("/trigger-event-types", AddType).Requires(Right.WriteTriggerEvents);
        api.MapPut("/trigger-event-types/{id:long}", SaveType).Requires(Right.WriteTriggerEvents);
        api.MapGet("/trigger-events", List).Requires(Right.ReadSchedule);
        api.MapPost("/trigger-events", Tell).Requires(Right.WriteTriggerEvents);
        api.MapPost("/trigger-events/consequences", Consequences).Requires(Right.WriteTriggerEvents);
        api.MapPost("/trigger-events/consequences/{group}", ConsequencesGroup).Requires(Right.WriteTriggerEvents);
        api.MapPost("/trigger-events/csv", TellCsv).Requires(Right.WriteTriggerEvents).TakesUpTo(MostTableBytes);
        api.MapPost("/trigger-events/csv/{group}", CsvGroup).Requires(Right.WriteTriggerEvents);
        api.MapPost("/trigger-events/{id:long}/revocation", Revoke).Requires(Right.WriteTriggerEvents);
        api.MapPost("/trigger-events/{id:long}/revocation/consequences", RevocationConsequences)
            .Requires(Right.WriteTriggerEvents);
        api.MapPost("/trigger-events/{id:long}/revocation/consequences/{group}", RevocationGroup)
            .Requires(Right.WriteTriggerEvents);
        api.MapGet("/subjects/{subject}", Subject).Requires(Right.ReadContent);
    }

    private static async Task<Reply<IReadOnlyList<TriggerEventTypeView>>> Types(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) => (Outcome<IReadOnlyList<TriggerEventTypeView>>)await TypesAsync(caller, db, cancel);

    /// <summary>
    /// The events that the caller may know of: those of subjects that items of the remit are about; all of them over
    /// the whole organisation.
    /// </summary>
    private static IQueryable<TriggerEvent> Visible(Caller caller, WideKeelDb db)
    {
        var units = caller.Units(Right.ReadSchedule);
        return db
            .TriggerEvents.AsNoTracking()
            .Where(e =>
                units == null || db.Items.Any(i => i.Subject == e.Subject && units.Contains(i.Container!.UnitId))
            );
    }

    internal static async Task<List<TriggerEventTypeView>> TypesAsync(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var types = await db.TriggerEventTypes.AsNoTracking().OrderBy(t => t.Name).ToListAsync(cancel);
        var counts = await Visible(caller, db)
            .Where(e => e.RevokedAt == null)
            .GroupBy(e => e.TypeId)
            .Select(g => new
            {
                g.Key,
                Count = g.LongCount(),
                Latest = g.Max(e => e.Date),
            })
            .ToDictionaryAsync(g => g.Key, cancel);
        var users = (
            await db
                .Series.AsNoTracking()
                .Where(s => s.State != SeriesState.Retired)
                .OrderBy(s => s.Code)
                .ToListAsync(cancel)
        )
            .Where(s => caller.MaySee(Right.ReadSchedule, s.UnitId))
            .SelectMany(s => (s.InForce ?? s.Draft)!.Clauses.Select(c => (s.Code, c.Trigger)))
            .ToLookup(s => s.Trigger, s => s.Code);
        return
        [
            .. types.Select(t => new TriggerEventTypeView(
                t.Id,
                t.Name,
                t.Title,
                t.Description,
                [.. users[$"event:{t.Name}"].Distinct()],
                counts.GetValueOrDefault(t.Id)?.Count ?? 0,
                counts.GetValueOrDefault(t.Id)?.Latest,
                t.Revision
            )),
        ];
    }

    private static async Task<Reply<TriggerEventTypeView>> AddType(
        TriggerEventTypeText request,
        Caller caller,
        Writer writer,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var added = await writer.RunAsync<long>(
            caller.Actor,
            async session =>
            {
                if (Check(request) is { } wrong)
                {
                    return wrong;
                }

                if (await session.Db.TriggerEventTypes.AnyAsync(t => t.Name == request.Name, cancel))
                {
                    return Refusal.Conflict("code-taken", "name", $"There is an event type {request.Name} already.");
                }

                var type = new TriggerEventType
                {
                    Name = request.Name,
                    Title = request.Title.Trim(),
                    Description = request.Description.Trim(),
                };
                session.Db.TriggerEventTypes.Add(type);
                await session.Db.SaveChangesAsync(cancel);
                session.Record(
                    "added",
                    new("trigger-event-type", Text(type.Id)),
                    after: new JsonObject { ["name"] = type.Name, ["title"] = type.Title }
                );
                return type.Id;
            },
            cancel
        );
        return added.Refused ? added.Refusal! : (await TypesAsync(caller, db, cancel)).Single(t => t.Id == added.Value);
    }

    private static async Task<Reply<TriggerEventTypeView>> SaveType(
        long id,
        TriggerEventTypeText request,
        [AsParameters] ApiContext context
    )
    {
        var saved = await context.Writer.RunAsync<bool>(
            context.Caller.Actor,
            async session =>
            {
                var type = await session.Db.TriggerEventTypes.SingleOrDefaultAsync(t => t.Id == id, context.Cancel);
                if (type is null)
                {
                    return Problems.NotFound("event type");
                }

                if ((Problems.CheckMatch(context.Http, type.Revision) ?? Check(request)) is { } refusal)
                {
                    return refusal;
                }

                if (request.Name != type.Name)
                {
                    return new Refusal(
                        "name-fixed",
                        "name",
                        "Rules go by an event type's name; it does not change. Add another type."
                    );
                }

                session.Record(
                    "changed",
                    new("trigger-event-type", Text(id)),
                    new JsonObject { ["title"] = type.Title },
                    new JsonObject { ["title"] = request.Title }
                );
                (type.Title, type.Description, type.Revision) = (
                    request.Title.Trim(),
                    request.Description.Trim(),
                    type.Revision + 1
                );
                return true;
            },
            context.Cancel
        );
        return saved.Refused
            ? saved.Refusal!
            : (await TypesAsync(context.Caller, context.Db, context.Cancel)).Single(t => t.Id == id);
    }

    private static Refusal? Check(TriggerEventTypeText text) =>
        !Trigger.IsName(text.Name)
            ? new(
                "name-malformed",
                "name",
                "A name has small letters, digits and hyphens, begins with a letter and has at most 40: vessel-sold."
            )
        : string.IsNullOrWhiteSpace(text.Title) || text.Title.Length > SeriesDefinition.MaxTitle
            ? new("title-missing", "title", "An event type needs a title, of at most 200 characters.")
        : text.Description is null || text.Description.Length > SeriesDefinition.MaxText
            ? new("text-too-long", "description", "A description has at most 4,000 characters.")
        : null;

    private static async Task<Reply<TriggerEventPage>> List(
        string? type,
        string? subject,
        string? cursor,
        [AsParameters] ApiContext context
    )
    {
        var all = Visible(context.Caller, context.Db)
            .Where(e => (type == null || e.Type!.Name == type) && (subject == null || e.Subject == subject));
        var before = cursor is null ? long.MaxValue : Cursor.Read(cursor)?.Id ?? 0;
        var rows = await all.Where(e => e.Id < before)
            .OrderByDescending(e => e.Id)
            .Take(MostRows + 1)
            .ToListAsync(context.Cancel);
        return new TriggerEventPage(
            await ViewsAsync(rows.Take(MostRows), context.Db, context.Cancel),
            rows.Count > MostRows ? Cursor.Write(0L, rows[MostRows - 1].Id) : null,
            await all.LongCountAsync(context.Cancel)
        );
    }

    private static async Task<IReadOnlyList<TriggerEventView>> ViewsAsync(
        IEnumerable<TriggerEvent> rows,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var events = rows.ToList();
        var types = await db.TriggerEventTypes.AsNoTracking().ToDictionaryAsync(t => t.Id, cancel);
        var subjects = events.Select(e => e.Subject).Distinct().ToList();
        var latest = (
            await db
                .TriggerEvents.AsNoTracking()
                .Where(e => e.RevokedAt == null && subjects.Contains(e.Subject))
                .GroupBy(e => new { e.TypeId, e.Subject })
                .Select(g => new
                {
                    g.Key.TypeId,
                    g.Key.Subject,
                    Date = g.Max(e => e.Date),
                })
                .ToListAsync(cancel)
        ).ToDictionary(g => (g.TypeId, g.Subject), g => g.Date);
        return
        [
            .. events.Select(e => new TriggerEventView(
                e.Id,
                types[e.TypeId].Name,
                types[e.TypeId].Title,
                e.Subject,
                e.Date,
                e.Note,
                e.Reference,
                e.ToldBy,
                e.ToldAt,
                e.RevokedBy,
                e.RevokedAt,
                e.RevokedWhy,
                e.RevokedAt is null && latest[(e.TypeId, e.Subject)] == e.Date
            )),
        ];
    }

    private static async Task<Reply<ConsequencesView>> Consequences(
        NewTriggerEvent request,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        await ReadAsync(request, db, calendar, cancel) is var read && read.Refusal is { } wrong
            ? wrong
            : (Outcome<ConsequencesView>)
                await (await ReportingAsync(new(db, calendar, cancel), [Reported(read.Value)])).FiguresAsync(
                    db,
                    caller
                );

    private static async Task<Reply<ItemPage>> ConsequencesGroup(
        string group,
        NewTriggerEvent request,
        string? cursor,
        [AsParameters] ApiContext context
    ) =>
        await ReadAsync(request, context.Db, context.Calendar, context.Cancel) is var read && read.Refusal is { } wrong
            ? wrong
            : await (
                await ReportingAsync(new(context.Db, context.Calendar, context.Cancel), [Reported(read.Value)])
            ).GroupAsync(group, cursor, context.Caller, context.Db, context.Calendar);

    private static async Task<Reply<TriggerEventView>> Tell(NewTriggerEvent request, [AsParameters] ApiContext context)
    {
        var done = await context.Writer.RunAsync<ActDone<IReadOnlyList<TriggerEvent>>>(
            context.Caller.Actor,
            async session =>
            {
                var read = await ReadAsync(request, session.Db, context.Calendar, context.Cancel);
                if (read.Refusal is { } wrong)
                {
                    return wrong;
                }

                var known = (await KnownEvents.LoadAsync(session.Db, [read.Value], context.Cancel)).Find(read.Value);
                if (known.Refused || known.Value is not null)
                {
                    return known.Refused
                        ? known.Refusal!
                        : new ActDone<IReadOnlyList<TriggerEvent>>([known.Value!], null);
                }

                return await ActRunner.RunAsync(
                    new ActContext(session, context.Caller, context.Calendar, context.Cancel),
                    ReportTriggerEventsHandler.Instance,
                    new ReportTriggerEvents([Reported(read.Value)]),
                    request.Why ?? request.Note,
                    request.Fingerprint
                );
            },
            context.Cancel
        );
        return done.Refusal is { } refusal ? refusal
            : done.Value.Value is not [var told] ? done.Value.Waits
            : (await ViewsAsync([told], context.Db, context.Cancel))[0];
    }

    private static ReportedEvent Reported(TriggerEvent one) =>
        new(one.TypeId, one.Subject, one.Date, one.Note, one.Reference);

    private static async Task<Reply<ConsequencesView>> RevocationConsequences(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        await StandingEventAsync(id, db, cancel) is var known && known.Refusal is { } refusal
            ? refusal
            : (Outcome<ConsequencesView>)
                await (await RevokingAsync(db, calendar, known.Value)).FiguresAsync(db, caller);

    private static async Task<Reply<ItemPage>> RevocationGroup(
        long id,
        string group,
        string? cursor,
        [AsParameters] ApiContext context
    ) =>
        await StandingEventAsync(id, context.Db, context.Cancel) is var known && known.Refusal is { } refusal
            ? refusal
            : await (await RevokingAsync(context.Db, context.Calendar, known.Value)).GroupAsync(
                group,
                cursor,
                context.Caller,
                context.Db,
                context.Calendar
            );

    private static async Task<Reply<TriggerEventView>> Revoke(
        long id,
        Revocation request,
        [AsParameters] ApiContext context
    )
    {
        if (Problems.CheckWhy(request.Why) is { } unsaid)
        {
            return unsaid;
        }

        var done = await ActRunner.RunAsync(
            RevokeTriggerEventHandler.Instance,
            new(id, request.Why),
            context,
            request.Why,
            request.Fingerprint
        );
        return done.Refusal is { } refusal ? refusal
            : done.Value.Value is not { } revoked ? done.Value.Waits
            : (await ViewsAsync([revoked], context.Db, context.Cancel))[0];
    }

    /// <summary>The event, where it has not been revoked.</summary>
    internal static async Task<Outcome<TriggerEvent>> StandingEventAsync(
        long id,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        await db.TriggerEvents.Include(e => e.Type).SingleOrDefaultAsync(e => e.Id == id, cancel) switch
        {
            null => Problems.NotFound("trigger event"),
            { RevokedAt: not null } known => Refusal.Conflict(
                "trigger-event-revoked",
                null,
                $"{known.RevokedBy} has revoked it already."
            ),
            var known => known,
        };

    private static async Task<Reply<TriggerEventsCsvView>> TellCsv(
        EventsCsv request,
        Caller caller,
        Writer writer,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<TriggerEventsCsvView>(
            caller.Actor,
            async session =>
            {
                var read = await ReadFileAsync(request.Csv, session.Db, calendar, cancel);
                if (read.Refusal is { } unreadable)
                {
                    return unreadable;
                }

                var (events, known, refused) = read.Value;
                if (refused.Count > 0)
                {
                    return new TriggerEventsCsvView(events.Count, known, refused, null, false);
                }

                var reported = events.ConvertAll(Reported);
                var act = new ActContext(session, caller, calendar, cancel);
                if (request.Fingerprint is null)
                {
                    var figures = await (await ReportingAsync(act, reported)).FiguresAsync(session.Db);
                    return new TriggerEventsCsvView(events.Count, known, [], figures, false);
                }

                var done = await ActRunner.RunAsync(
                    act,
                    ReportTriggerEventsHandler.Instance,
                    new ReportTriggerEvents(reported),
                    request.Why,
                    request.Fingerprint
                );
                return done.Refusal is { } refusal
                    ? refusal
                    : new TriggerEventsCsvView(
                        events.Count,
                        known,
                        [],
                        (ConsequencesView)done.Value.Figures! with
                        {
                            ProposalId = done.Value.ProposalId,
                            SecondPerson = done.Value.Condition,
                        },
                        done.Value.ProposalId is null
                    );
            },
            cancel
        );

    private static async Task<Reply<ItemPage>> CsvGroup(
        string group,
        EventsCsv request,
        string? cursor,
        [AsParameters] ApiContext context
    ) =>
        await ReadFileAsync(request.Csv, context.Db, context.Calendar, context.Cancel) is var read
        && read.Refusal is { } unreadable
            ? unreadable
            : await (
                await ReportingAsync(
                    new(context.Db, context.Calendar, context.Cancel),
                    read.Value.Events.ConvertAll(Reported)
                )
            ).GroupAsync(group, cursor, context.Caller, context.Db, context.Calendar);

    /// <summary>The new events of a file, the number of those that are known, and what is wrong line by line.</summary>
    private static async Task<Outcome<(List<TriggerEvent> Events, int Known, List<RefusedLine> Refused)>> ReadFileAsync(
        string csv,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var lines = ReadCsv(csv);
        if (lines.Refusal is { } unreadable)
        {
            return unreadable;
        }

        var types = await db.TriggerEventTypes.ToDictionaryAsync(t => t.Name, cancel);
        var read = lines
            .Value.Select(l =>
                (
                    l.Number,
                    Event: LocalDatePattern.Iso.Parse(l.Line.Date) is { Success: true, Value: var date }
                        ? Read(new(l.Line.Type, l.Line.Subject, date, l.Line.Note, l.Line.Reference), types, calendar)
                        : new Refusal(
                            "date-malformed",
                            "date",
                            $"“{l.Line.Date}” is no calendar date such as 2026-03-14."
                        )
                )
            )
            .ToList();
        var all = await KnownEvents.LoadAsync(
            db,
            [.. read.Where(r => !r.Event.Refused).Select(r => r.Event.Value)],
            cancel
        );
        List<TriggerEvent> events = [];
        List<RefusedLine> refused = [];
        var known = 0;
        foreach (var (number, told) in read)
        {
            var found = told.Refused ? told.Refusal! : all.Find(told.Value);
            if (found.Refusal is { } wrong)
            {
                refused.Add(new(number, wrong.Field ?? "", wrong.Sentence));
            }
            else if (found.Value is not null)
            {
                known++;
            }
            else
            {
                events.Add(told.Value);
                all.Add(told.Value);
            }
        }

        return (events, known, refused);
    }

    private static async Task<Reply<SubjectView>> Subject(
        string subject,
        string? cursor,
        [AsParameters] ApiContext context
    )
    {
        var page = await ItemEndpoints.PageAsync(
            context.Caller.Items() with
            {
                Subjects = [subject],
            },
            null,
            cursor,
            100,
            context.Db,
            context.Calendar
        );
        if (page.Refused)
        {
            return page.Refusal!;
        }

        var events = context.Caller.May(Right.ReadSchedule)
            ? await Visible(context.Caller, context.Db)
                .Where(e => e.Subject == subject)
                .OrderByDescending(e => e.Date)
                .ThenByDescending(e => e.Id)
                .Take(MostRows)
                .ToListAsync(context.Cancel)
            : [];
        return new SubjectView(subject, await ViewsAsync(events, context.Db, context.Cancel), page.Value);
    }

    private static async Task<Outcome<TriggerEvent>> ReadAsync(
        NewTriggerEvent request,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        Read(
            request,
            await db.TriggerEventTypes.Where(t => t.Name == request.Type).ToDictionaryAsync(t => t.Name, cancel),
            calendar
        );

    private static Outcome<TriggerEvent> Read(
        NewTriggerEvent request,
        Dictionary<string, TriggerEventType> types,
        OrganisationCalendar calendar
    )
    {
        if (request.Type is null || !types.TryGetValue(request.Type, out var type))
        {
            return new Refusal("type-unknown", "type", $"There is no event type “{request.Type}”; add it first.");
        }

        if (string.IsNullOrWhiteSpace(request.Subject) || request.Subject.Trim().Length > 100)
        {
            return new Refusal(
                "subject-missing",
                "subject",
                "An event has a subject of 1 to 100 characters, as the items' subject reference says it."
            );
        }

        if (!PlausibleDate.Holds(request.Date, calendar.Today))
        {
            return new Refusal(
                "date-absurd",
                "date",
                "No clock counts from a date before 1900 or more than 50 years ahead."
            );
        }

        if (request.Note?.Length > 1000 || request.Reference?.Length > 100)
        {
            return new Refusal(
                "text-too-long",
                request.Note?.Length > 1000 ? "note" : "reference",
                "A note has at most 1,000 characters, a reference 100."
            );
        }

        return new TriggerEvent
        {
            TypeId = type.Id,
            Subject = request.Subject.Trim(),
            Date = request.Date,
            Note = request.Note?.Trim() ?? "",
            Reference = string.IsNullOrWhiteSpace(request.Reference) ? null : request.Reference.Trim(),
            ToldBy = "",
        };
    }

    /// <summary>What reporting these events would do to the items of their subjects.</summary>
    internal static async Task<RuleChange> ReportingAsync(ActGround ground, IReadOnlyList<ReportedEvent> events)
    {
        var names = await ground.Db.TriggerEventTypes.AsNoTracking().ToDictionaryAsync(t => t.Id, t => t.Name);
        return await OfSubjectsAsync(
            ground.Db,
            ground.Calendar,
            [.. events.Select(e => e.Subject).Distinct()],
            before => before.WithEvents(events.Select(e => (names[e.TypeId], e.Subject, e.Date)))
        );
    }

    /// <summary>What taking this event back would do: the one before it counts, or none.</summary>
    internal static async Task<RuleChange> RevokingAsync(
        WideKeelDb db,
        OrganisationCalendar calendar,
        TriggerEvent revoked
    )
    {
        var others = await db
            .TriggerEvents.AsNoTracking()
            .Where(e =>
                e.TypeId == revoked.TypeId && e.Subject == revoked.Subject && e.Id != revoked.Id && e.RevokedAt == null
            )
            .Select(e => (LocalDate?)e.Date)
            .MaxAsync();
        return await OfSubjectsAsync(
            db,
            calendar,
            [revoked.Subject],
            before => before.WithEvent(revoked.Type!.Name, revoked.Subject, others)
        );
    }

    private static async Task<RuleChange> OfSubjectsAsync(
        WideKeelDb db,
        OrganisationCalendar calendar,
        IReadOnlyList<string> subjects,
        Func<Ruling, Ruling> after
    )
    {
        var before = await Ruling.LoadAsync(db, calendar.Evaluator, null, subjects);
        var filter = new ItemFilter(Units: null) { Subjects = subjects };
        return new(
            before,
            after(before),
            subjects.Count == 0 ? "0" : filter.Where(),
            c => filter.Bind(c, calendar.Today.ToDayNumber())
        );
    }

    internal static async Task<List<TriggerEvent>> AddAsync(ActContext context, IReadOnlyList<ReportedEvent> events)
    {
        var session = context.Session;
        var names = await session
            .Db.TriggerEventTypes.AsNoTracking()
            .ToDictionaryAsync(t => t.Id, t => t.Name, context.Cancel);
        List<TriggerEvent> rows = [.. events.Select(e => e.Row(context.By, session.Now))];
        session.Db.TriggerEvents.AddRange(rows);
        await session.Db.SaveChangesAsync(context.Cancel);
        rows.ForEach(e =>
            session.Record("trigger-event-told", new("trigger-event", Text(e.Id)), after: Entry(e, names[e.TypeId]))
        );
        await ReevaluateAsync(context, [.. rows.Select(e => e.Subject).Distinct()]);
        return rows;
    }

    /// <summary>Only the items of these subjects are looked at again.</summary>
    internal static async Task ReevaluateAsync(ActContext context, IReadOnlyList<string> subjects)
    {
        if (subjects.Count > 0)
        {
            var ruling = await Ruling.LoadAsync(context.Db, context.Calendar.Evaluator, null, subjects);
            var filter = new ItemFilter(Units: null) { Subjects = subjects };
            ItemScan.WriteStandings(
                context.Session,
                ruling,
                filter.Where(),
                c => filter.Bind(c, context.Calendar.Today.ToDayNumber())
            );
        }
    }

    private static Outcome<List<(int Number, CsvEvent Line)>> ReadCsv(string? text)
    {
        var table = (text ?? "").TrimStart('\uFEFF');
        return CsvQuoting.Check(table, "csv") is { } astray ? astray : ReadTable(table);
    }

    private static Outcome<List<(int Number, CsvEvent Line)>> ReadTable(string table)
    {
        using var reader = new CsvReader(new StringReader(table), CultureInfo.InvariantCulture);
        if (!reader.Read() || !reader.ReadHeader())
        {
            return new Refusal(
                "csv-empty",
                "csv",
                "The file is empty. Its first line names the columns: type, subject, date, note, reference."
            );
        }

        string[] known = ["type", "subject", "date", "note", "reference"];
        var columns = reader.HeaderRecord!.Select(h => h.Trim().ToLowerInvariant()).ToList();
        if (known.Take(3).Except(columns).FirstOrDefault() is { } missing)
        {
            return new Refusal(
                "csv-column",
                "csv",
                $"Line 1: the column {missing} is missing. There must be type, subject and date."
            );
        }

        if (columns.Except(known).FirstOrDefault() is { } unknown)
        {
            return new Refusal(
                "csv-column",
                "csv",
                $"Line 1: there is no column “{unknown}”. Known are {string.Join(", ", known)}."
            );
        }

        List<(int, CsvEvent)> lines = [];
        while (reader.Read())
        {
            string Value(string column) =>
                columns.IndexOf(column) is >= 0 and var at && reader.TryGetField<string>(at, out var value)
                    ? value!.Trim()
                    : "";
            lines.Add(
                (
                    reader.Parser.RawRow,
                    new(Value("type"), Value("subject"), Value("date"), Value("note"), Value("reference"))
                )
            );
            if (lines.Count > MostLines)
            {
                return new Refusal(
                    "csv-long",
                    "csv",
                    string.Create(CultureInfo.InvariantCulture, $"At most {MostLines:N0} events at once.")
                );
            }
        }

        return lines;
    }

    internal static JsonObject Entry(TriggerEvent told, string? type = null) =>
        new()
        {
            ["type"] = type ?? told.Type!.Name,
            ["subject"] = told.Subject,
            ["date"] = LocalDatePattern.Iso.Format(told.Date),
            ["reference"] = told.Reference,
        };

    private static string Text(long id) => id.ToString(CultureInfo.InvariantCulture);

    private sealed record CsvEvent(string Type, string Subject, string Date, string Note, string Reference);

    /// <summary>
    /// What is known of the subjects and references of some events, so that each is looked up without a query of its
    /// own.
    /// </summary>
    private sealed class KnownEvents
    {
        private readonly Dictionary<string, TriggerEvent> byReference = [];
        private readonly Dictionary<(long Type, string Subject, LocalDate Date), TriggerEvent> byFact = [];

        public static async Task<KnownEvents> LoadAsync(
            WideKeelDb db,
            IReadOnlyList<TriggerEvent> told,
            CancellationToken cancel
        )
        {
            var subjects = told.Select(e => e.Subject).Distinct().ToList();
            var references = told.Select(e => e.Reference).OfType<string>().Distinct().ToList();
            KnownEvents known = new();
            foreach (
                var one in await db
                    .TriggerEvents.Where(e => subjects.Contains(e.Subject) || references.Contains(e.Reference!))
                    .OrderBy(e => e.Id)
                    .ToListAsync(cancel)
            )
            {
                known.Add(one);
            }

            return known;
        }

        public void Add(TriggerEvent one)
        {
            if (one.Reference is { } reference)
            {
                byReference.TryAdd(reference, one);
            }

            if (one.RevokedAt is null)
            {
                byFact.TryAdd((one.TypeId, one.Subject, one.Date), one);
            }
        }

        /// <summary>
        /// The event where it was told before, or null; a reference that was used for another fact, or revoked, is
        /// refused.
        /// </summary>
        public Outcome<TriggerEvent?> Find(TriggerEvent told)
        {
            if (told.Reference is not { } reference)
            {
                return byFact.GetValueOrDefault((told.TypeId, told.Subject, told.Date));
            }

            return byReference.GetValueOrDefault(reference) switch
            {
                null => (TriggerEvent?)null,
                { RevokedAt: not null } => Refusal.Conflict(
                    "reference-taken",
                    "reference",
                    $"The event under the reference {reference} was revoked. Report it anew under another."
                ),
                var known when (known.TypeId, known.Subject, known.Date) == (told.TypeId, told.Subject, told.Date) =>
                    known,
                _ => Refusal.Conflict(
                    "reference-taken",
                    "reference",
                    $"The reference {reference} was used for another event. Revoke that one, and report this under a reference of its own."
                ),
            };
        }
    }
}
