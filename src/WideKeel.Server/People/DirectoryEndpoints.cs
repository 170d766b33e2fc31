using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Matters;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <param name="Holds">Matters whose orders keep something of theirs; only those that the caller is a member
/// of.</param>
public sealed record DirectoryPersonView(
    long Id,
    string Name,
    string Mail,
    string Unit,
    string Title,
    string Manager,
    LocalDate? LeavesOn,
    AccountKind Kind,
    bool Suspended,
    string Source,
    bool SignsIn,
    IReadOnlyList<string> Groups,
    IReadOnlyList<PersonHold> Holds
);

public sealed record PersonHold(long MatterId, string Matter, string MatterName, int OrdersInForce);

/// <param name="Key">By which grants, reviews and policies name it.</param>
public sealed record DirectoryGroupView(long Id, string Key, string Name, long SourceId, IReadOnlyList<string> Members);

/// <summary>What is taken in; what is null leaves its kind as it is.</summary>
/// <param name="People">CSV with the columns name, mail, and if wanted unit, title, manager (a mail address), leaves (the last
/// day), kind (person, guest or service), sponsor, suspended, second factor.</param>
/// <param name="Groups">CSV with the columns group, member (a mail address, or the name of another group), owner.</param>
/// <param name="Places">CSV with the columns place, name, kind, parent, inherits, owner, outsiders, sensitive, region.</param>
/// <param name="Grants">CSV with the columns to, place, role.</param>
/// <param name="Links">CSV with the columns place, to (anyone or organisation), role, by, ends.</param>
/// <param name="Consents">CSV with the columns application, by, scopes, name, publisher, used.</param>
/// <param name="Ldif">LDIF (RFC 2849) with people and groups, in place of their tables.</param>
/// <param name="Source">The source whose files these are; null for the one that is there from the start.</param>
/// <param name="Whole">What the source held and does not name any more is gone; people who are missing have left.</param>
public sealed record DirectoryImport(
    string? People = null,
    string? Groups = null,
    string? Places = null,
    string? Grants = null,
    string? Links = null,
    string? Consents = null,
    string? Ldif = null,
    long? Source = null,
    bool Whole = false
);

/// <param name="Added">People.</param>
/// <param name="Changed">People, those who have left included.</param>
/// <param name="Groups">Groups that appear, change or disappear.</param>
/// <param name="Others">Places, grants and applications that do.</param>
public sealed record DirectoryImported(int Added, int Changed, int Groups, int Others);

/// <param name="Touches">What hangs on the people, groups and places that change or disappear.</param>
/// <param name="Left">How many differences are not listed.</param>
/// <param name="PassedOver">What the file says and the directory cannot hold; the first ones.</param>
public sealed record DirectoryConsequences(
    int Appear,
    int Change,
    int Disappear,
    IReadOnlyList<DirectoryDifference> Differences,
    int Left,
    IReadOnlyList<DirectoryTouch> Touches,
    IReadOnlyList<string> PassedOver
);

/// <summary>The organisation's people and groups, and their way in by files.</summary>
public static class DirectoryEndpoints
{
    private const int Most = 500;

    /// <summary>As many differences as somebody reads before an import.</summary>
    private const int MostDifferences = 5_000;
    private const int MostPassed = 500;

    /// <summary>Tables of some hundred thousand people and a million grants.</summary>
    private const long MostImportBytes = 100_000_000;

    public static void MapDirectory(this IEndpointRouteBuilder api)
    {
        api.MapGet("/directory/people", People).Requires(Right.ReadDirectory);
        api.MapGet("/directory/groups", Groups).Requires(Right.ReadDirectory);
        api.MapPost("/directory", Import).Requires(Right.ManagePeople).TakesUpTo(MostImportBytes);
        api.MapPost("/directory/consequences", Consequences).Requires(Right.ManagePeople).TakesUpTo(MostImportBytes);
    }

    private static async Task<Reply<IReadOnlyList<DirectoryPersonView>>> People(
        string? words,
        long? source,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var people = await db
            .DirectoryPeople.AsNoTracking()
            .Where(p => source == null || (p.SourceId == source && p.RemovedAt == null))
            .Found(words)
            .OrderBy(p => p.Name)
            .Take(Most)
            .ToListAsync(cancel);
        var ids = people.Select(p => p.Id).ToList();
        var groups = (
            await (
                from m in db.DirectoryMemberships
                join g in db.DirectoryGroups on m.GroupId equals g.Id
                where m.PersonId != null && ids.Contains(m.PersonId.Value)
                select new { m.PersonId, g.Name }
            ).ToListAsync(cancel)
        ).ToLookup(g => g.PersonId, g => g.Name);
        var sources = await db.DirectorySources.AsNoTracking().ToDictionaryAsync(s => s.Id, s => s.Name, cancel);
        var accounts = (
            await db.Users.AsNoTracking().Where(p => p.Active).Select(p => p.Email!).ToListAsync(cancel)
        ).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var holds = await HoldsAsync(db, caller, ids, cancel);
        return (Outcome<IReadOnlyList<DirectoryPersonView>>)
            people
                .Select(p => new DirectoryPersonView(
                    p.Id,
                    p.Name,
                    p.Mail,
                    p.Unit,
                    p.Title,
                    p.Manager,
                    p.LeavesOn,
                    p.Kind,
                    p.Suspended,
                    sources.GetValueOrDefault(p.SourceId, ""),
                    accounts.Contains(p.Mail),
                    [.. groups[p.Id].Order(StringComparer.OrdinalIgnoreCase)],
                    [.. holds[p.Id]]
                ))
                .ToList();
    }

    /// <summary>What keeps something of each person, of the caller's own matters.</summary>
    private static async Task<ILookup<long, PersonHold>> HoldsAsync(
        WideKeelDb db,
        Caller caller,
        IReadOnlyList<long> people,
        CancellationToken cancel
    )
    {
        var own = caller.Matters.Keys.ToList();
        var custodians = await db
            .Custodians.AsNoTracking()
            .Where(c => own.Contains(c.MatterId) && people.Contains(c.PersonId))
            .ToListAsync(cancel);
        var matters = await db
            .Matters.AsNoTracking()
            .Where(m => own.Contains(m.Id))
            .ToDictionaryAsync(m => m.Id, cancel);
        var orders = (
            await db
                .HoldOrders.AsNoTracking()
                .Where(o => own.Contains(o.MatterId) && o.State == Core.Matters.OrderState.InForce)
                .ToListAsync(cancel)
        ).ToLookup(o => o.MatterId);
        return custodians.ToLookup(
            c => c.PersonId,
            c => new PersonHold(
                c.MatterId,
                matters[c.MatterId].Number,
                matters[c.MatterId].Name,
                orders[c.MatterId]
                    .Count(o =>
                        o.InForce!.Custodians.Contains(c.Id) || o.InForce.Containers.Intersect(c.Containers).Any()
                    )
            )
        );
    }

    private static async Task<Reply<IReadOnlyList<DirectoryGroupView>>> Groups(WideKeelDb db, CancellationToken cancel)
    {
        var groups = await db
            .DirectoryGroups.AsNoTracking()
            .Include(g => g.Members)
            .Where(g => g.RemovedAt == null)
            .OrderBy(g => g.Name)
            .ToListAsync(cancel);
        var people = await db.DirectoryPeople.AsNoTracking().ToDictionaryAsync(p => p.Id, p => p.Name, cancel);
        var names = groups.ToDictionary(g => g.Id, g => g.Name);
        return (Outcome<IReadOnlyList<DirectoryGroupView>>)
            groups
                .Select(g => new DirectoryGroupView(
                    g.Id,
                    g.Key,
                    g.Name,
                    g.SourceId,
                    [
                        .. g
                            .Members.Select(m =>
                                m.PersonId is { } p ? people[p] : names.GetValueOrDefault(m.SubgroupId!.Value)
                            )
                            .OfType<string>()
                            .Order(StringComparer.OrdinalIgnoreCase),
                    ]
                ))
                .ToList();
    }

    /// <summary>What an import would do, and what hangs on it; nothing is changed.</summary>
    private static async Task<Reply<DirectoryConsequences>> Consequences(
        DirectoryImport request,
        IEnumerable<IDirectoryTouches> parts,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    )
    {
        var planned = await PlanAsync(context.Db, request, directory.State, context.Calendar.Today, context.Cancel);
        if (planned.Refused)
        {
            return planned.Refusal!;
        }

        var (_, before, after, passed) = planned.Value;
        var differences = DirectoryDifferences.Between(before, after, context.Calendar.Today);
        var ids = differences
            .Where(d => d.How != DifferenceKind.Appears)
            .Select(d => d.Id)
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
        List<DirectoryTouch> touches = [];
        foreach (var part in parts)
        {
            touches.AddRange(await part.OfAsync(ids, context.Caller, context.Db, context.Cancel));
        }

        return new DirectoryConsequences(
            differences.Count(d => d.How == DifferenceKind.Appears),
            differences.Count(d => d.How == DifferenceKind.Changes),
            differences.Count(d => d.How == DifferenceKind.Disappears),
            // Who goes is looked at first.
            [.. differences.OrderByDescending(d => d.How).ThenBy(d => d.Thing).Take(MostDifferences)],
            Math.Max(0, differences.Count - MostDifferences),
            touches,
            [.. passed.Take(MostPassed)]
        );
    }

    /// <summary>All or nothing. People are never removed: who is not named any more has left, where the list is whole.</summary>
    private static async Task<Reply<DirectoryImported>> Import(
        DirectoryImport request,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    ) =>
        await context.Writer.RunAsync<DirectoryImported>(
            context.Caller.Actor,
            session =>
                Entrances.WatchedAsync(
                    session,
                    () => ImportAsync(session, request, directory, context.Calendar.Today, context.Cancel),
                    context.Cancel
                ),
            context.Cancel
        );

    private static async Task<Outcome<DirectoryImported>> ImportAsync(
        WriteSession session,
        DirectoryImport request,
        OrganisationDirectory directory,
        LocalDate today,
        CancellationToken cancel
    )
    {
        var planned = await PlanAsync(session.Db, request, directory.State, today, cancel);
        if (planned.Refused)
        {
            return planned.Refusal!;
        }

        var (known, _, after, _) = planned.Value;
        var source = known ?? await DirectorySources.FilesAsync(session, cancel);
        source.LastAt = session.Now;
        var differences = await DirectoryImports.KeepAsync(session, source, after, cancel);
        return new DirectoryImported(
            differences.Count(d => d is { Thing: DirectoryThing.Person, How: DifferenceKind.Appears }),
            differences.Count(d => d.Thing == DirectoryThing.Person && d.How != DifferenceKind.Appears),
            differences.Count(d => d.Thing == DirectoryThing.Group),
            differences.Count(d => d.Thing is not (DirectoryThing.Person or DirectoryThing.Group))
        );
    }

    /// <summary>The source of an import, what it holds, and what it would hold.</summary>
    private static async Task<
        Outcome<(DirectorySource? Source, DirectoryState Before, DirectoryState After, IReadOnlyList<string> Passed)>
    > PlanAsync(WideKeelDb db, DirectoryImport request, DirectoryState known, LocalDate today, CancellationToken cancel)
    {
        var source = request.Source is { } id
            ? await db.DirectorySources.SingleOrDefaultAsync(s => s.Id == id && s.EndedAt == null, cancel)
            : await db.DirectorySources.FirstOrDefaultAsync(
                s => s.Kind == DirectorySourceKind.Files && s.EndedAt == null,
                cancel
            );
        if (request.Source is not null && source is not { Kind: DirectorySourceKind.Files })
        {
            return source is null
                ? Problems.NotFound("source")
                : Refusal.Conflict(
                    "not-files",
                    "source",
                    $"“{source.Name}” takes no files; it sends its changes itself."
                );
        }

        var before = source is null ? DirectoryState.Empty : await DirectoryRows.StateAsync(db, source.Id, cancel);
        var portion = new DirectoryTables(known, before, today).Read(request);
        if (portion.Refused)
        {
            return portion.Refusal!;
        }

        var after = portion.Value.Over(before, today);
        return await DirectoryImports.CheckAsync(db, source, before, after, cancel) is { } refusal
            ? refusal
            : (source, before, after, portion.Value.PassedOver);
    }
}
