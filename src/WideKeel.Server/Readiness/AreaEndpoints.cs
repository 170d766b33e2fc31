using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Server.Access;
using WideKeel.Server.Activity;
using WideKeel.Server.People;
using WideKeel.Store.Activity;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Late">Their day is past.</param>
public sealed record TraineeView(string Mail, string Name, LocalDate? Due, LocalDate? Done, bool Late);

/// <param name="Done">How many people have done it.</param>
/// <param name="InTime">How many still have time.</param>
/// <param name="Late">How many are past their day.</param>
public sealed record CourseView(
    string Course,
    string Connection,
    int Done,
    int InTime,
    int Late,
    IReadOnlyList<TraineeView> People
);

/// <param name="Approved">When somebody approved it; null where nobody has.</param>
/// <param name="Unapproved">It was done without approval before.</param>
public sealed record ChangeView(
    string Key,
    string Title,
    string Person,
    string State,
    LocalDate? Opened,
    LocalDate? Approved,
    LocalDate? Due,
    LocalDate? Done,
    bool Unapproved,
    bool Late
);

/// <param name="From">register, alert, finding or ticket.</param>
/// <param name="Link">Where it is worked on.</param>
public sealed record IncidentView(
    string From,
    string Title,
    string Says,
    string State,
    LocalDate? On,
    LocalDate? Due,
    bool Open,
    string Link
);

/// <param name="Steps">What is left to take back; empty where nothing is.</param>
public sealed record LeaverView(string Mail, string Name, string Unit, LocalDate On, IReadOnlyList<string> Steps);

/// <param name="Steps">What they have still to do: policies to acknowledge, courses; empty where nothing is left.</param>
/// <param name="Late">One of them is past its day.</param>
public sealed record JoinerView(
    string Mail,
    string Name,
    string Unit,
    LocalDate On,
    IReadOnlyList<string> Steps,
    bool Late
);

public sealed record UnitPeopleView(string Unit, int People, int Guests);

/// <param name="Reports">Mail addresses of those whose manager it is.</param>
public sealed record ChartPersonView(
    string Mail,
    string Name,
    string Title,
    string Unit,
    IReadOnlyList<string> Reports
);

/// <param name="Top">Mail addresses of those who have people and no manager.</param>
public sealed record PeopleArea(
    int InScope,
    int Guests,
    int Services,
    IReadOnlyList<UnitPeopleView> Units,
    IReadOnlyList<JoinerView> Joiners,
    IReadOnlyList<LeaverView> Leavers,
    IReadOnlyList<string> Top,
    IReadOnlyList<ChartPersonView> Chart
);

/// <summary>The areas that the product gathers from what it knows: people, training, changes, incidents.</summary>
public static class AreaEndpoints
{
    /// <summary>
    /// People who leave within so many days are looked at, those who left within so many, and everybody who left and
    /// still has something.
    /// </summary>
    private const int LeaverDays = 90;

    /// <summary>Whoever joined within so many days, or joins within them, is looked at.</summary>
    private const int JoinerDays = 90;

    public static void MapAreas(this IEndpointRouteBuilder api)
    {
        api.MapGet("/areas/people", People).Requires(Right.ReadReadiness);
        api.MapGet("/areas/training", Training).Requires(Right.ReadReadiness);
        api.MapGet("/areas/changes", Changes).Requires(Right.ReadReadiness);
        api.MapGet("/areas/incidents", Incidents).Requires(Right.ReadReadiness);
    }

    private static async Task<Reply<PeopleArea>> People(AccessGround ground, [AsParameters] ApiContext context)
    {
        var state = ground.State;
        var today = context.Calendar.Today;
        var there = state
            .People.Where(p => !p.Suspended && !(LeftOn(p) <= today))
            .OrderBy(p => p.Name, StringComparer.OrdinalIgnoreCase)
            .ToList();
        var bound = there.Where(p => p.Kind == "person").ToList();
        var reports = bound.ToLookup(p => p.Manager, StringComparer.OrdinalIgnoreCase);
        var known = bound.Select(p => p.Id).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var accounts = (
            await context.Db.Users.Where(u => u.Active).Select(u => u.Email!).ToListAsync(context.Cancel)
        ).ToHashSet(StringComparer.OrdinalIgnoreCase);
        return new PeopleArea(
            bound.Count,
            there.Count(p => p.Kind == "guest"),
            there.Count(p => p.Kind == "service"),
            [
                .. there
                    .Where(p => p.Unit.Length > 0)
                    .GroupBy(p => p.Unit)
                    .OrderBy(g => g.Key, StringComparer.OrdinalIgnoreCase)
                    .Select(g => new UnitPeopleView(
                        g.Key,
                        g.Count(p => p.Kind == "person"),
                        g.Count(p => p.Kind == "guest")
                    )),
            ],
            await JoinersAsync(there, state, context),
            [
                .. state
                    .People.Where(p => LeftOn(p) <= today.PlusDays(LeaverDays))
                    .Select(p => new LeaverView(p.Id, p.Name, p.Unit, LeftOn(p)!.Value, StepsOf(p, state, accounts)))
                    .Where(l => l.Steps.Count > 0 || l.On >= today.PlusDays(-LeaverDays))
                    .OrderBy(l => l.Steps.Count == 0)
                    .ThenBy(l => l.On),
            ],
            [.. bound.Where(p => reports[p.Id].Any() && !known.Contains(p.Manager)).Select(p => p.Id)],
            [
                .. bound
                    .Where(p => reports[p.Id].Any() || known.Contains(p.Manager))
                    .Select(p => new ChartPersonView(
                        p.Id,
                        p.Name,
                        p.Title,
                        p.Unit,
                        [.. reports[p.Id].Where(r => r.Id != p.Id).Select(r => r.Id)]
                    )),
            ]
        );
    }

    private static LocalDate? LeftOn(OutsidePerson person) => DayOf(person.Left);

    private static LocalDate? DayOf(string? iso) => iso is null ? null : LocalDatePattern.Iso.Parse(iso).Value;

    /// <summary>Who joined a short time ago, or will, and what they have still to do; the latest first.</summary>
    private static async Task<IReadOnlyList<JoinerView>> JoinersAsync(
        IEnumerable<OutsidePerson> there,
        DirectoryState state,
        ApiContext context
    )
    {
        var today = context.Calendar.Today;
        var joiners = there
            .Select(p => (Person: p, On: DayOf(p.Joined)))
            .Where(j => j.On >= today.PlusDays(-JoinerDays) && j.On <= today.PlusDays(JoinerDays))
            .ToList();
        if (joiners.Count == 0)
        {
            return [];
        }

        var policies = (await PolicyBook.Whole(context.Db).AsNoTracking().ToListAsync(context.Cancel))
            .Select(p => PolicyBook.Of(p, state, today))
            .SelectMany(p => p.Readers.Select(r => (r.Person.Id, p.Row.Title, r.State)))
            .Where(r => r.State != Acknowledgement.Given)
            .ToLookup(r => r.Id, StringComparer.OrdinalIgnoreCase);
        var courses = (
            await (
                from connection in context.Db.Connections
                join record in context.Db.ConnectionRecords on connection.Id equals record.ConnectionId
                where connection.Kind == ConnectionKind.Training && record.Done == null
                select record
            )
                .AsNoTracking()
                .ToListAsync(context.Cancel)
        ).ToLookup(r => r.Person, StringComparer.OrdinalIgnoreCase);
        return
        [
            .. joiners
                .Select(j => new JoinerView(
                    j.Person.Id,
                    j.Person.Name,
                    j.Person.Unit,
                    j.On!.Value,
                    [
                        .. policies[j.Person.Id].Select(p => $"Acknowledge “{p.Title}”."),
                        .. courses[j.Person.Id].Select(c => $"Do the course “{c.Sort}”."),
                    ],
                    policies[j.Person.Id].Any(p => p.State == Acknowledgement.Overdue)
                        || courses[j.Person.Id].Any(c => ConnectionRecords.IsLate(c.Due, c.Done, today))
                ))
                .OrderByDescending(j => j.On),
        ];
    }

    private static List<string> StepsOf(OutsidePerson person, DirectoryState state, HashSet<string> accounts)
    {
        List<string> steps = [];
        var groups = state.Groups.Where(g => g.Members.Contains(person.Id)).Select(g => g.Name).ToList();
        var grants = state.Grants.Count(g => g.To == person.Id);
        if (accounts.Contains(person.Id))
        {
            steps.Add("The account here is switched on.");
        }

        if (groups.Count > 0)
        {
            steps.Add($"Is in {string.Join(", ", groups)}.");
        }

        if (grants > 0)
        {
            steps.Add($"Has {Wording.Plural(grants, "grant")} in person.");
        }

        var owned = state.Groups.Count(g => g.Owner == person.Id) + state.Resources.Count(r => r.Owner == person.Id);
        if (owned > 0)
        {
            steps.Add($"Answers for {Wording.Plural(owned, "group or place", "groups or places")}.");
        }

        return steps;
    }

    private static async Task<Reply<IReadOnlyList<CourseView>>> Training(
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    )
    {
        var today = context.Calendar.Today;
        var names = directory.State.People.ToDictionary(p => p.Id, p => p.Name, StringComparer.OrdinalIgnoreCase);
        var records = await (
            from connection in context.Db.Connections
            join record in context.Db.ConnectionRecords on connection.Id equals record.ConnectionId
            where connection.Kind == ConnectionKind.Training
            select new { connection.Name, Record = record }
        )
            .AsNoTracking()
            .ToListAsync(context.Cancel);
        return (Outcome<IReadOnlyList<CourseView>>)
            records
                .GroupBy(r => (r.Name, r.Record.Sort))
                .OrderBy(g => g.Key.Sort, StringComparer.OrdinalIgnoreCase)
                .Select(g =>
                {
                    var people = g.Select(r => new TraineeView(
                            r.Record.Person,
                            names.GetValueOrDefault(r.Record.Person, r.Record.Person),
                            r.Record.Due,
                            r.Record.Done,
                            ConnectionRecords.IsLate(r.Record.Due, r.Record.Done, today)
                        ))
                        .OrderByDescending(t => t.Late)
                        .ThenBy(t => t.Done is not null)
                        .ThenBy(t => t.Due)
                        .ThenBy(t => t.Name, StringComparer.OrdinalIgnoreCase)
                        .ToList();
                    return new CourseView(
                        g.Key.Sort,
                        g.Key.Name,
                        people.Count(p => p.Done is not null),
                        people.Count(p => p.Done is null && !p.Late),
                        people.Count(p => p.Late),
                        people
                    );
                })
                .ToList();
    }

    private static IQueryable<ConnectionRecord> Tickets(ApiContext context, string sort) =>
        context
            .Db.Connections.Where(c => c.Kind == ConnectionKind.Tickets)
            .SelectMany(c => c.Records.Where(r => r.Sort == sort))
            .AsNoTracking()
            .OrderBy(r => r.Done != null)
            .ThenBy(r => r.Due)
            .ThenBy(r => r.Key);

    private static async Task<Reply<IReadOnlyList<ChangeView>>> Changes([AsParameters] ApiContext context)
    {
        var today = context.Calendar.Today;
        return (Outcome<IReadOnlyList<ChangeView>>)
            (await Tickets(context, "change").ToListAsync(context.Cancel))
                .Select(r =>
                {
                    var approved = ConnectionMeasures.DayOf(r, "approved");
                    return new ChangeView(
                        r.Key,
                        r.Title,
                        r.Person,
                        r.State,
                        r.Opened,
                        approved,
                        r.Due,
                        r.Done,
                        r.Done is not null && !(approved <= r.Done),
                        ConnectionRecords.IsLate(r.Due, r.Done, today)
                    );
                })
                .ToList();
    }

    /// <summary>Alerts that were confirmed, findings of audits, tickets and the register, as far as the caller sees them.</summary>
    private static async Task<Reply<IReadOnlyList<IncidentView>>> Incidents([AsParameters] ApiContext context)
    {
        List<IncidentView> incidents =
        [
            .. (
                await context
                    .Db.RegisterEntries.AsNoTracking()
                    .Where(e => e.Kind == "incident")
                    .ToListAsync(context.Cancel)
            ).Select(e => new IncidentView(
                "register",
                e.Title,
                e.Says,
                e.Mark,
                null,
                e.Due,
                e.DoneOn is null,
                "/readiness/areas?kind=incident"
            )),
            .. (await Tickets(context, "incident").ToListAsync(context.Cancel)).Select(r => new IncidentView(
                "ticket",
                r.Title,
                r.Key,
                r.State,
                r.Opened,
                r.Due,
                r.Done is null,
                $"/readiness/connections?connection={Wording.Id(r.ConnectionId)}&words={Uri.EscapeDataString(r.Key)}"
            )),
            .. await FindingsAsync(context),
        ];
        if (context.Caller.May(Right.ReadActivity))
        {
            incidents.AddRange(await AlertsAsync(context));
        }

        return (Outcome<IReadOnlyList<IncidentView>>)
            incidents.OrderByDescending(i => i.Open).ThenBy(i => i.Due ?? LocalDate.MaxIsoValue).ToList();
    }

    private static async Task<IEnumerable<IncidentView>> FindingsAsync(ApiContext context) =>
        (
            await (
                from audit in context.Db.Audits
                from finding in audit.Findings
                select new { audit.Name, Finding = finding }
            )
                .AsNoTracking()
                .ToListAsync(context.Cancel)
        ).Select(f => new IncidentView(
            "finding",
            f.Finding.Title,
            $"{f.Name}: {f.Finding.Action}",
            f.Finding.Severity,
            null,
            f.Finding.Due,
            f.Finding.DoneOn is null,
            $"/readiness/audits?audit={Wording.Id(f.Finding.AuditId)}"
        ));

    private static async Task<IEnumerable<IncidentView>> AlertsAsync(ApiContext context)
    {
        var access = await ChannelAccess.OfAsync(context.Caller, context.Db, context.Cancel);
        var zone = context.Calendar.Zone;
        var alerts = await access
            .Of(context.Db.Alerts.AsNoTracking())
            .Where(a => a.State == AlertState.Confirmed && a.FoldedInto == null && !a.Withdrawn)
            .OrderByDescending(a => a.At)
            .Take(200)
            .ToListAsync(context.Cancel);
        var watches = await context.Db.Watches.AsNoTracking().ToDictionaryAsync(w => w.Id, w => w.Name, context.Cancel);
        return alerts.Select(a => new IncidentView(
            "alert",
            watches[a.WatchId],
            $"{a.Actor ?? a.Key}: {a.Why}".TrimStart(':', ' '),
            "confirmed",
            a.At.InZone(zone).Date,
            null,
            // Somebody answered it; what follows is worked on elsewhere.
            false,
            $"/activity/alerts?alert={Wording.Id(a.Id)}"
        ));
    }
}
