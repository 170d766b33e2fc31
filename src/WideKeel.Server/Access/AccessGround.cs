using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Access;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Server.People;
using WideKeel.Store;
using DirectoryRows = WideKeel.Store.People.DirectoryRows;

namespace WideKeel.Server.Access;

/// <summary>What access is computed from: the directory as it is now, and what activity says of its use.</summary>
public sealed class AccessGround(OrganisationDirectory directory, OrganisationCalendar calendar, IClock clock)
{
    private static readonly Duration UseStays = Duration.FromMinutes(1);

    /// <summary>So many changed things lie over what was computed; with more, all is computed anew.</summary>
    private const int MostLaid = 1000;

    private readonly Lock turn = new();
    private Ground? computed;
    private (Instant At, Uses Uses)? used;

    private sealed record Ground(
        DirectoryState State,
        LocalDate Day,
        AccessModel Model,
        EffectiveAccess Access,
        int Laid
    );

    private sealed record Uses(
        Dictionary<(string, string), LocalDate> LastUse,
        Dictionary<(string, string), int> Times,
        Dictionary<string, LocalDate> LastSignIn,
        LocalDate Since
    );

    public DirectoryState State => directory.State;

    public AccessModel Model => Computed().Model;

    public EffectiveAccess Access => Computed().Access;

    private (AccessModel Model, EffectiveAccess Access) Computed()
    {
        lock (turn)
        {
            var (state, today) = (directory.State, calendar.Today);
            if (computed is not { } known || !ReferenceEquals(known.State, state) || known.Day != today)
            {
                computed = known = After(computed, state, today) ?? Anew(state, today);
            }

            return (known.Model, known.Access);
        }
    }

    private static Ground Anew(DirectoryState state, LocalDate today)
    {
        var model = ModelOf(state);
        return new(state, today, model, new(model, today), 0);
    }

    /// <summary>What was computed, with what changed since laid over it; null where it has to be computed anew.</summary>
    private Ground? After(Ground? known, DirectoryState state, LocalDate today)
    {
        if (known is null || known.Day != today || directory.Since(known.State) is not { } parts)
        {
            return null;
        }

        var (model, access, laid) = (known.Model, known.Access, known.Laid);
        foreach (var part in parts.Select(ModelOf))
        {
            laid += part.People.Count + part.Groups.Count + part.Resources.Count;
            if (laid > MostLaid || model.With(part) is not { } then || access.With(part) is not { } reach)
            {
                return null;
            }

            (model, access) = (then, reach);
        }

        return new(state, today, model, access, laid);
    }

    /// <summary>Who reaches what in a state of the directory that is not committed yet.</summary>
    internal static EffectiveAccess AccessOf(DirectoryState state, LocalDate today) => new(ModelOf(state), today);

    private static AccessModel ModelOf(DirectoryState state) =>
        new(
            [.. state.People.Select(p => new DirectoryAccount(p.Id, KindOf(p), DayOf(p.Left)))],
            [.. state.Groups.Select(g => new DirectoryGroup(g.Id, g.Members))],
            [
                .. state.Resources.Select(r => new Resource(
                    r.Id,
                    r.Parent,
                    r.Inherits,
                    [
                        .. r.Links.Select(l => new ResourceLink(
                            l.To == EffectiveAccess.Anyone ? LinkReach.Anyone : LinkReach.Organisation,
                            l.Role
                        )),
                    ]
                )),
            ],
            [.. state.Grants.Select(g => new Grant(g.To, g.Resource, g.Role))]
        );

    internal static AccountKind KindOf(OutsidePerson person) => DirectoryRows.KindOf(person.Kind);

    internal static LocalDate? DayOf(string? iso) =>
        iso is not null && LocalDatePattern.Iso.Parse(iso) is { Success: true, Value: var day } ? day : null;

    /// <summary>All that lists to mend are made from.</summary>
    public async Task<MendingFacts> FactsAsync(WideKeelDb db, CancellationToken cancel)
    {
        var (state, model) = (State, Model);
        var uses = await UsesAsync(db, cancel);
        var pairs = await db.ToxicPairs.AsNoTracking().OrderBy(p => p.Id).ToListAsync(cancel);
        return new(
            calendar.Today,
            model,
            state.People.ToDictionary(
                p => p.Id,
                p => new PersonFacts(p.Id, p.Name, KindOf(p), p.Unit, p.Title, DayOf(p.Left), p.Sponsor)
            ),
            state.Resources.ToDictionary(
                r => r.Id,
                r => new ResourceFacts(r.Id, r.Name, r.Kind, r.Owner, r.OutsideAllowed, r.Sensitive, r.Region)
            ),
            state.Groups.ToDictionary(g => g.Id, g => g.Owner),
            [
                .. state.Applications.SelectMany(a =>
                    a.Consents.Select(c => new ConsentFacts(a.Id, a.Publisher, c.By, c.Scopes, DayOf(c.LastUsed)))
                ),
            ],
            [.. pairs.Select(p => new ToxicPair(p.Name, p.First, p.FirstRole, p.Second, p.SecondRole))],
            // The units of a region are those that own what is bound to it.
            state
                .Resources.Where(r => r is { Region: not null, Parent: null })
                .GroupBy(r => r.Name)
                .ToDictionary(g => g.Key, g => g.First().Region!),
            uses.LastUse,
            uses.Since
        )
        {
            Uses = uses.Times,
        };
    }

    /// <summary>The same with what reviews know besides.</summary>
    public async Task<ReviewFacts> ReviewFactsAsync(WideKeelDb db, CancellationToken cancel)
    {
        var month = clock.GetCurrentInstant() - Duration.FromDays(30);
        var confirmed = await db
            .ReviewLines.AsNoTracking()
            .Where(l => l.Decision == LineDecision.Keep && !l.BySilence && l.DecidedAt > month)
            .Select(l => new { l.Person, l.What })
            .ToListAsync(cancel);
        var stewards = await (
            from remit in db.Remits
            join person in db.Users on remit.PersonId equals person.Id
            join unit in db.Units on remit.UnitId equals unit.Id
            where remit.Role == Core.People.Role.Steward && person.Active
            orderby person.Id descending
            select new { unit.Name, Mail = person.Email! }
        ).ToListAsync(cancel);
        return new(
            await FactsAsync(db, cancel),
            (await UsesAsync(db, cancel)).LastSignIn,
            State.People.Where(p => p.Manager.Length > 0).ToDictionary(p => p.Id, p => p.Manager),
            stewards.GroupBy(s => s.Name).ToDictionary(g => g.Key, g => g.First().Mail),
            confirmed.Select(c => (c.Person, c.What)).ToHashSet()
        );
    }

    /// <summary>When who used which place last; asked of activity at most once a minute.</summary>
    private async Task<Uses> UsesAsync(WideKeelDb db, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        lock (turn)
        {
            if (used is { } known && now - known.At < UseStays && now >= known.At)
            {
                return known.Uses;
            }
        }

        await db.Database.OpenConnectionAsync(cancel);
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        Dictionary<(string, string), LocalDate> uses = [];
        Dictionary<(string, string), int> times = [];
        Read(
            connection,
            """
            SELECT (SELECT Value FROM activity_value WHERE Id = Actor), (SELECT Value FROM activity_value WHERE Id = Container), Last, Times
            FROM (SELECT Actor, Container, MAX(Time) AS Last, COUNT(*) AS Times FROM activity_event
                WHERE Actor IS NOT NULL AND Container IS NOT NULL GROUP BY 1, 2)
            """,
            r =>
            {
                var use = (r.GetString(0), r.GetString(1));
                (uses[use], times[use]) = (Day(r.GetInt64(2)), r.GetInt32(3));
            }
        );
        Dictionary<string, LocalDate> signIns = [];
        Read(
            connection,
            """
            SELECT (SELECT Value FROM activity_value WHERE Id = Actor), MAX(Time) FROM activity_event
            WHERE Actor IS NOT NULL
                AND Action = (SELECT Id FROM activity_value WHERE "Column" = 'action' AND Value = 'sign-in')
                AND Outcome = (SELECT Id FROM activity_value WHERE "Column" = 'outcome' AND Value = 'success')
            GROUP BY Actor
            """,
            r => signIns[r.GetString(0)] = Day(r.GetInt64(1))
        );
        var since = calendar.Today;
        Read(
            connection,
            "SELECT MIN(Time) FROM activity_event",
            r => since = r.IsDBNull(0) ? calendar.Today : Day(r.GetInt64(0))
        );
        var fresh = new Uses(uses, times, signIns, since);
        lock (turn)
        {
            used = (now, fresh);
        }

        return fresh;
    }

    /// <summary>Uses are asked for anew; for tests and the demo, whose clock jumps.</summary>
    public void Forget()
    {
        lock (turn)
        {
            used = null;
        }
    }

    private static LocalDate Day(long milliseconds) => Instant.FromUnixTimeMilliseconds(milliseconds).InUtc().Date;

    private static void Read(SqliteConnection connection, string sql, Action<SqliteDataReader> row)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        using var reader = command.ExecuteReader();
        while (reader.Read())
        {
            row(reader);
        }
    }
}
