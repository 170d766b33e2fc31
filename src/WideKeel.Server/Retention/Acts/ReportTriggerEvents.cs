using System.Globalization;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>One outside fact, as it is reported.</summary>
internal sealed record ReportedEvent(long TypeId, string Subject, LocalDate Date, string Note, string? Reference)
{
    public TriggerEvent Row(string by, Instant at) =>
        new()
        {
            TypeId = TypeId,
            Subject = Subject,
            Date = Date,
            Note = Note,
            Reference = Reference,
            ToldBy = by,
            ToldAt = at,
        };
}

/// <summary>Reports trigger events.</summary>
internal sealed record ReportTriggerEvents(IReadOnlyList<ReportedEvent> Events);

internal sealed class ReportTriggerEventsHandler : ItemActHandler<ReportTriggerEvents, IReadOnlyList<TriggerEvent>>
{
    private const int MostNamed = 20;

    public static ReportTriggerEventsHandler Instance { get; } = new();

    public override string Name => "report-trigger-events";

    public override bool MayAgree(Caller caller, string unit) => caller.May(Right.WriteTriggerEvents);

    public override Task<ActSubject> SubjectAsync(ActContext context, ReportTriggerEvents act) =>
        Task.FromResult(
            new ActSubject(
                act.Events.Count == 1
                    ? $"Report a trigger event of {act.Events[0].Subject} on {Wording.Day(act.Events[0].Date)}"
                    : $"Report {Wording.Plural(act.Events.Count, "trigger event")}",
                context.Caller.Root.Value
            )
        );

    public override Task<Refusal?> CheckAsync(ActContext context, ReportTriggerEvents act) =>
        Task.FromResult(
            context.Caller.May(Right.WriteTriggerEvents)
                ? null
                : Refusal.Forbidden("not-allowed", null, "Your role does not include reporting trigger events.")
        );

    public override Task<IReadOnlyDictionary<string, string>> RestsOnAsync(ActGround ground, ReportTriggerEvents act) =>
        EventsOfAsync(ground, [.. act.Events.Select(e => e.Subject).Distinct()]);

    public override Task<RuleChange> ChangeAsync(ActGround ground, ReportTriggerEvents act) =>
        TriggerEventEndpoints.ReportingAsync(ground, act.Events);

    public override async Task<IReadOnlyList<ActPart>> PartsAsync(ActGround ground, ReportTriggerEvents act)
    {
        var types = await ground.Db.TriggerEventTypes.AsNoTracking().ToDictionaryAsync(t => t.Id, ground.Cancel);
        List<ActPart> parts =
        [
            .. act
                .Events.Take(MostNamed)
                .Select(e => new ActPart($"{types[e.TypeId].Title}, {e.Subject}", null, Wording.Day(e.Date))),
        ];
        return act.Events.Count > MostNamed
            ? [.. parts, new("And", null, Wording.Plural(act.Events.Count - MostNamed, "more event"))]
            : parts;
    }

    public override async Task<Outcome<IReadOnlyList<TriggerEvent>>> WriteAsync(
        ActContext context,
        ReportTriggerEvents act,
        IFigures? figures
    ) => (Outcome<IReadOnlyList<TriggerEvent>>)await TriggerEventEndpoints.AddAsync(context, act.Events);

    /// <summary>What is known of some subjects: it is another revision with every event that is reported or revoked.</summary>
    internal static async Task<IReadOnlyDictionary<string, string>> EventsOfAsync(
        ActGround ground,
        IReadOnlyCollection<string> subjects
    )
    {
        var known = await ground
            .Db.TriggerEvents.Where(e => subjects.Contains(e.Subject))
            .GroupBy(_ => 1)
            .Select(g => new { Last = g.Max(e => e.Id), Revoked = g.Count(e => e.RevokedAt != null) })
            .SingleOrDefaultAsync(ground.Cancel);
        return new Dictionary<string, string>
        {
            [subjects.Count == 1 ? $"What is known of {subjects.Single()}" : "What is known of these subjects"] =
                string.Create(CultureInfo.InvariantCulture, $"{known?.Last ?? 0}/{known?.Revoked ?? 0}"),
        };
    }
}

/// <summary>Revokes a trigger event.</summary>
internal sealed record RevokeTriggerEvent(long EventId, string Why);

internal sealed class RevokeTriggerEventHandler : ItemActHandler<RevokeTriggerEvent, TriggerEvent>
{
    public static RevokeTriggerEventHandler Instance { get; } = new();

    public override string Name => "revoke-trigger-event";

    public override bool MayAgree(Caller caller, string unit) => caller.May(Right.WriteTriggerEvents);

    public override async Task<ActSubject> SubjectAsync(ActContext context, RevokeTriggerEvent act)
    {
        var known = await LoadAsync(context, act);
        return new(
            $"Revoke the trigger event {known.Type!.Title} of {known.Subject} on {Wording.Day(known.Date)}",
            context.Caller.Root.Value
        );
    }

    public override async Task<Refusal?> CheckAsync(ActContext context, RevokeTriggerEvent act) =>
        context.Caller.May(Right.WriteTriggerEvents)
            ? (await TriggerEventEndpoints.StandingEventAsync(act.EventId, context.Db, context.Cancel)).Refusal
            : Refusal.Forbidden("not-allowed", null, "Your role does not include revoking trigger events.");

    public override async Task<IReadOnlyDictionary<string, string>> RestsOnAsync(
        ActGround ground,
        RevokeTriggerEvent act
    ) => await ReportTriggerEventsHandler.EventsOfAsync(ground, [(await LoadAsync(ground, act)).Subject]);

    public override async Task<RuleChange> ChangeAsync(ActGround ground, RevokeTriggerEvent act) =>
        await TriggerEventEndpoints.RevokingAsync(ground.Db, ground.Calendar, await LoadAsync(ground, act));

    public override async Task<IReadOnlyList<ActPart>> PartsAsync(ActGround ground, RevokeTriggerEvent act)
    {
        var known = await LoadAsync(ground, act);
        return [new($"{known.Type!.Title}, {known.Subject}", Wording.Day(known.Date), null)];
    }

    public override async Task<Outcome<TriggerEvent>> WriteAsync(
        ActContext context,
        RevokeTriggerEvent act,
        IFigures? figures
    )
    {
        var known = await context
            .Db.TriggerEvents.Include(e => e.Type)
            .SingleAsync(e => e.Id == act.EventId, context.Cancel);
        (known.RevokedBy, known.RevokedAt, known.RevokedWhy) = (context.By, context.Session.Now, act.Why.Trim());
        await context.Db.SaveChangesAsync(context.Cancel);
        context.Session.Record(
            "trigger-event-revoked",
            new("trigger-event", Wording.Id(known.Id)),
            TriggerEventEndpoints.Entry(known),
            reason: context.Why(act.Why)
        );
        await TriggerEventEndpoints.ReevaluateAsync(context, [known.Subject]);
        return known;
    }

    private static Task<TriggerEvent> LoadAsync(ActGround ground, RevokeTriggerEvent act) =>
        ground
            .Db.TriggerEvents.AsNoTracking()
            .Include(e => e.Type)
            .SingleAsync(e => e.Id == act.EventId, ground.Cancel);
}
