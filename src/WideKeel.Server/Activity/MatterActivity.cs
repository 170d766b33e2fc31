using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Core.Matters;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Server.Matters;
using WideKeel.Store.Activity;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Activity;

/// <param name="Custodians">Of the matter; empty for all of them.</param>
/// <param name="Query">CQL over events; empty for whatever they did.</param>
/// <param name="From">The first day, in the organisation's zone.</param>
/// <param name="To">The last day.</param>
public sealed record ActivitySweep(
    IReadOnlyList<long> Custodians,
    string? Query = null,
    LocalDate? From = null,
    LocalDate? To = null
);

/// <param name="Question">The same as CQL, for the search of activity.</param>
public sealed record ActivityFound(long Events, IReadOnlyList<CustodianEvents> ByCustodian, string Question);

/// <param name="Question">What this one did, as CQL.</param>
public sealed record CustodianEvents(long Id, string Name, long Events, Instant? First, Instant? Last, string Question);

/// <param name="Name">Of the investigation that keeps what was found.</param>
public sealed record ActivityKeeping(ActivitySweep Sweep, string Name);

/// <summary>An investigation as members of its matter see it.</summary>
public sealed record MatterInvestigation(
    long Id,
    string Name,
    string Summary,
    string By,
    int Events,
    Instant? FrozenAt
);

/// <summary>Events that a release lets go.</summary>
/// <param name="StayHeld">Of those: another order keeps them.</param>
/// <param name="PastTime">Of the rest: their time is up by then, so the next sealing removes them.</param>
/// <param name="Question">What the order keeps of its channels now, as CQL; empty where it keeps none.</param>
public sealed record ReleasedEvents(long Events, long StayHeld, long PastTime, string Question);

/// <summary>What a matter has to do with activity: its custodians' events, and the events that its orders keep.</summary>
public static class MatterActivityEndpoints
{
    private const int MostKept = 5_000;

    public static void MapMatterActivity(this IEndpointRouteBuilder api)
    {
        api.MapPost("/matters/{id:long}/activity", Find).Requires(Right.ReadActivity);
        api.MapPost("/matters/{id:long}/activity/investigations", Keep).Requires(Right.ReadActivity);
        api.MapGet("/matters/{id:long}/investigations", List).RequiresSignIn();
        api.MapPost("/matters/{id:long}/orders/{order:long}/releases/events", Released).RequiresSignIn();
    }

    /// <summary>How many events of its custodians a sweep finds, within what the caller may read.</summary>
    private static async Task<Reply<ActivityFound>> Find(
        long id,
        ActivitySweep sweep,
        [AsParameters] ApiContext context
    )
    {
        var asked = await AskedAsync(id, sweep, MemberPart.Reader, context);
        if (asked.Refusal is { } refusal)
        {
            return refusal;
        }

        List<CustodianEvents> found = [];
        foreach (var person in asked.Value)
        {
            var question = Question([person], sweep, context);
            var events = await EventQuestion.ReadAsync(question, null, null, context);
            if (events.Refusal is { } mistake)
            {
                return mistake with { Field = "query" };
            }

            var (count, first, last) = events.Value.Rows(
                "SELECT COUNT(*), MIN(e.Time), MAX(e.Time)",
                "",
                r => (r.GetInt64(0), MomentAt(r, 1), MomentAt(r, 2))
            )[0];
            found.Add(new(person.Id, person.Name, count, first, last, question));
        }

        return new ActivityFound(found.Sum(f => f.Events), found, Question(asked.Value, sweep, context));
    }

    /// <summary>Keeps what a sweep finds as it is now: an investigation of the matter, frozen.</summary>
    private static async Task<Reply<Done>> Keep(long id, ActivityKeeping request, [AsParameters] ApiContext context)
    {
        if (string.IsNullOrWhiteSpace(request.Name) || request.Name.Length > 200)
        {
            return new Refusal("name-missing", "name", "What is kept needs a name of at most 200 characters.");
        }

        var asked = await AskedAsync(id, request.Sweep, MemberPart.Reviewer, context);
        if (asked.Refusal is { } refusal)
        {
            return refusal;
        }

        var question = Question(asked.Value, request.Sweep, context);
        var events = await EventQuestion.ReadAsync(question, null, null, context);
        if (events.Refusal is { } mistake)
        {
            return mistake with { Field = "query" };
        }

        List<StoredEvent> found =
        [
            .. EventStore.Read(
                events.Value.Connection,
                $"{events.Value.Where} ORDER BY e.Time, e.Id LIMIT {MostKept + 1}",
                events.Value.Bind
            ),
        ];
        return found.Count switch
        {
            0 => Refusal.Conflict("nothing-found", null, "Nothing was found; there is nothing to keep."),
            > MostKept => Refusal.Conflict(
                "too-many-events",
                null,
                $"At most {Wording.Number(MostKept)} events are kept in one investigation. Choose fewer days or say more words."
            ),
            _ => await context.Writer.RunAsync<Done>(
                context.Caller.Actor,
                async session =>
                {
                    await InvestigationEndpoints.KeepAsync(session, id, new(request.Name, question), found, context);
                    return new Done();
                },
                context.Cancel
            ),
        };
    }

    private static async Task<Reply<IReadOnlyList<MatterInvestigation>>> List(
        long id,
        [AsParameters] ApiContext context
    )
    {
        var matter = await MatterDoor.FindAsync(id, context.Caller, context.Db, MemberPart.Reader, context.Cancel);
        return matter.Refusal is { } refusal
            ? refusal
            : (Outcome<IReadOnlyList<MatterInvestigation>>)
                await (
                    from i in context.Db.Investigations.AsNoTracking()
                    join p in context.Db.Users on i.PersonId equals p.Id
                    where i.MatterId == id
                    orderby i.Id descending
                    select new MatterInvestigation(i.Id, i.Name, i.Summary, p.DisplayName, i.Events.Count, i.FrozenAt)
                ).ToListAsync(context.Cancel);
    }

    private sealed record Person(long Id, string Name, string Mail);

    /// <summary>The custodians that a sweep asks about, or why it cannot be made.</summary>
    private static async Task<Outcome<IReadOnlyList<Person>>> AskedAsync(
        long id,
        ActivitySweep sweep,
        MemberPart part,
        ApiContext context
    )
    {
        var matter = await MatterDoor.FindAsync(
            id,
            context.Caller,
            context.Db,
            part,
            context.Cancel,
            changes: part > MemberPart.Reader
        );
        if (matter.Refusal is { } refusal)
        {
            return refusal;
        }

        if (sweep.From > sweep.To)
        {
            return new Refusal("dates-reversed", "to", "The last day lies before the first.");
        }

        var all = await context
            .Db.Custodians.AsNoTracking()
            .Where(c => c.MatterId == id)
            .OrderBy(c => c.Person!.Name)
            .Select(c => new Person(c.Id, c.Person!.Name, c.Person.Mail.ToLower()))
            .ToListAsync(context.Cancel);
        if (sweep.Custodians.Except(all.Select(c => c.Id)).Any())
        {
            return Problems.NotFound("custodian");
        }

        var people = all.Where(c => sweep.Custodians.Count == 0 || sweep.Custodians.Contains(c.Id)).ToList();
        return people.Count == 0
            ? Refusal.Conflict("no-custodians", "custodians", "The matter has no custodian yet; add one first.")
            : people;
    }

    /// <summary>What some people did, within the days of a sweep, as CQL.</summary>
    private static string Question(IReadOnlyList<Person> people, ActivitySweep sweep, ApiContext context)
    {
        List<string> parts = [Either(people.Select(p => ("actor", p.Mail)))];
        parts.AddRange(
            Within(
                sweep.From?.AtStartOfDayInZone(context.Calendar.Zone).ToInstant(),
                sweep.To?.PlusDays(1).AtStartOfDayInZone(context.Calendar.Zone).ToInstant()
            )
        );
        if (!string.IsNullOrWhiteSpace(sweep.Query))
        {
            parts.Add($"({sweep.Query.Trim()})");
        }

        return string.Join(" and ", parts);
    }

    private static string Either(IEnumerable<(string Index, string Value)> values) =>
        $"({string.Join(" or ", values.Select(v => $"{v.Index} == {EventEndpoints.Quoted(v.Value)}"))})";

    private static IEnumerable<string> Within(Instant? from, Instant? before)
    {
        if (from is { } first)
        {
            yield return $"time >= {EventLine.Text(first)}";
        }

        if (before is { } end)
        {
            yield return $"time < {EventLine.Text(end)}";
        }
    }

    private static Instant? MomentAt(SqliteDataReader reader, int column) =>
        reader.IsDBNull(column) ? null : Instant.FromUnixTimeMilliseconds(reader.GetInt64(column));

    /// <summary>The events that an order would keep no longer, and what keeps them or lets them go then.</summary>
    private static async Task<Reply<ReleasedEvents>> Released(
        long id,
        long order,
        Releasing request,
        int? delay,
        [AsParameters] ApiContext context
    )
    {
        var matter = await MatterDoor.FindAsync(id, context.Caller, context.Db, MemberPart.Reader, context.Cancel);
        if (matter.Refusal is { } refusal)
        {
            return refusal;
        }

        var known = await context
            .Db.HoldOrders.AsNoTracking()
            .SingleOrDefaultAsync(o => o.Id == order && o.MatterId == id, context.Cancel);
        if (known is null)
        {
            return Problems.NotFound("order");
        }

        if (known.InForce?.Channels is not { Count: > 0 } names)
        {
            return new ReleasedEvents(0, 0, 0, "");
        }

        var day = context.Calendar.Today.PlusDays(Math.Clamp(delay ?? matter.Value.DelayDays, 0, 3650) + 1);
        var others = await HeldEvents.LoadAsync(context.Db, day, context.Cancel, except: order);
        var channels = await context
            .Db.Channels.AsNoTracking()
            .Where(c => names.Contains(c.Name))
            .ToDictionaryAsync(c => c.Id, context.Cancel);
        var (all, stay, past) = (0L, 0L, 0L);
        foreach (var (channelId, on, last, events) in await DaysAsync(channels.Keys, context))
        {
            var channel = channels[channelId];
            if (!known.InForce.KeepsEvents(channel.Name, on) || request.Narrowed?.KeepsEvents(channel.Name, on) == true)
            {
                continue;
            }

            var held = others.Keep(channel.Name, on);
            all += events;
            stay += held ? events : 0;
            past += !held && Period.Parse(channel.Retention).Value.AddTo(last) < day ? events : 0;
        }

        var kept = known.InForce;
        var question = Within(
                kept.From?.AtStartOfDayInZone(DateTimeZone.Utc).ToInstant(),
                kept.To?.PlusDays(1).AtStartOfDayInZone(DateTimeZone.Utc).ToInstant()
            )
            .Prepend(Either(names.Select(n => ("channel", n))));
        return new ReleasedEvents(all, stay, past, string.Join(" and ", question));
    }

    /// <summary>Numbers of events by channel and UTC day: a sealed file goes whole by the day of its last event.</summary>
    private static async Task<IEnumerable<(long Channel, LocalDate Day, LocalDate Last, long Events)>> DaysAsync(
        IReadOnlyCollection<long> channels,
        ApiContext context
    )
    {
        var sealedDays = await context
            .Db.Segments.AsNoTracking()
            .Where(s => channels.Contains(s.ChannelId) && s.RemovedAt == null)
            .Select(s => new
            {
                s.ChannelId,
                s.Day,
                s.Last,
                s.Events,
            })
            .ToListAsync(context.Cancel);
        var open = await context
            .Db.Events.AsNoTracking()
            .Where(e => channels.Contains(e.ChannelId) && e.SegmentId == null)
            .Select(e => new { e.ChannelId, e.Time })
            .ToListAsync(context.Cancel);
        return sealedDays
            .Select(s => (s.ChannelId, s.Day, s.Last.InUtc().Date, (long)s.Events))
            .Concat(
                open.GroupBy(e => (e.ChannelId, Day: e.Time.InUtc().Date))
                    .Select(g => (g.Key.ChannelId, g.Key.Day, g.Key.Day, g.LongCount()))
            );
    }
}
