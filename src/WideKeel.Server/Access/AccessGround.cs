using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Access;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Activity;
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
    private (Instant At, PlaceUses Uses)? used;

    private sealed record Ground(
        DirectoryState State,
        LocalDate Day,
        AccessModel Model,
        EffectiveAccess Access,
        int Laid
    );

    public DirectoryState State => directory.State;

    public AccessModel Model => Computed().Model;

    public EffectiveAccess Access => Computed().Access;

    /// <summary>Every role that a grant or link gives.</summary>
    public IReadOnlySet<string> Roles =>
        State
            .Grants.Select(g => g.Role)
            .Concat(State.Resources.SelectMany(r => r.Links).Select(l => l.Role))
            .ToHashSet();

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
        var model = ModelOf(state, today);
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
        foreach (var part in parts.Select(p => ModelOf(p, today)))
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

    /// <summary>Of links only those that are not over.</summary>
    private static AccessModel ModelOf(DirectoryState state, LocalDate today) =>
        new(
            [.. state.People.Select(p => new DirectoryAccount(p.Id, KindOf(p), DayOf(p.Left)))],
            [.. state.Groups.Select(g => new DirectoryGroup(g.Id, g.Members))],
            [
                .. state.Resources.Select(r => new Resource(
                    r.Id,
                    r.Parent,
                    r.Inherits,
                    [
                        .. r
                            .Links.Where(l => !l.HasEnded(today))
                            .Select(l => new ResourceLink(
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

    private static IReadOnlyList<ConsentFacts> ConsentsOf(DirectoryState state) =>
        [
            .. state.Applications.SelectMany(a =>
                a.Consents.Select(c => new ConsentFacts(a.Id, a.Publisher, c.By, c.Scopes, DayOf(c.LastUsed)))
            ),
        ];

    /// <summary>What takes whose access, by the directory as it is now.</summary>
    public Removals Removals => new(Access, ConsentsOf(State));

    /// <summary>The same by a state of the directory that is not committed yet.</summary>
    internal static Removals RemovalsOf(DirectoryState state, LocalDate today) =>
        new(new(ModelOf(state, today), today), ConsentsOf(state));

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
                p => new PersonFacts(p.Id, p.Name, KindOf(p), p.Unit, p.Title, DayOf(p.Left), p.Sponsor),
                StringComparer.OrdinalIgnoreCase
            ),
            state.Resources.ToDictionary(
                r => r.Id,
                r => new ResourceFacts(r.Id, r.Name, r.Kind, r.Owner, r.OutsideAllowed, r.Sensitive, r.Region)
            ),
            state.Groups.ToDictionary(g => g.Id, g => g.Owner),
            ConsentsOf(state),
            [.. pairs.Select(p => new ToxicPair(p.Name, p.First, p.FirstRole, p.Second, p.SecondRole))],
            // The units of a region are those that own what is bound to it.
            state
                .Resources.Where(r => r is { Region: not null, Parent: null })
                .GroupBy(r => r.Name)
                .ToDictionary(g => g.Key, g => g.First().Region!),
            uses.LastUse,
            uses.Since ?? calendar.Today
        )
        {
            Uses = uses.Times,
            CollectedSince = uses.CollectedSince,
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
            where remit.Role == Role.Steward && person.Active
            orderby person.Id descending
            select new { unit.Name, Mail = person.Email! }
        ).ToListAsync(cancel);
        return new(
            await FactsAsync(db, cancel),
            (await UsesAsync(db, cancel)).LastSignIn,
            State.People.Where(p => p.Manager.Length > 0).ToDictionary(p => p.Id, p => p.Manager),
            stewards.GroupBy(s => s.Name).ToDictionary(g => g.Key, g => g.First().Mail),
            confirmed.Select(c => (c.Person, c.What)).ToHashSet()
        )
        {
            AccessManagers = await ManagersAsync(db, cancel),
        };
    }

    /// <summary>Who has a role that manages access over the whole organisation, in the order of their accounts.</summary>
    private static async Task<IReadOnlyList<string>> ManagersAsync(WideKeelDb db, CancellationToken cancel)
    {
        var roles = Enum.GetValues<Role>().Where(r => RightsPolicy.Grant(r, Right.ManageAccess)).ToList();
        return await (
            from remit in db.Remits
            join person in db.Users on remit.PersonId equals person.Id
            join unit in db.Units on remit.UnitId equals unit.Id
            where roles.Contains(remit.Role) && person.Active && unit.ParentId == null
            orderby person.Id
            select person.Email!
        )
            .Distinct()
            .ToListAsync(cancel);
    }

    /// <summary>When who used which place last; asked of activity at most once a minute.</summary>
    private async Task<PlaceUses> UsesAsync(WideKeelDb db, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        lock (turn)
        {
            if (used is { } known && now - known.At < UseStays && now >= known.At)
            {
                return known.Uses;
            }
        }

        var fresh = await PlaceUses.ReadAsync(db, cancel);
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
}
