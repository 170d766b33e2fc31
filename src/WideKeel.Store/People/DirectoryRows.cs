using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.People;

namespace WideKeel.Store.People;

/// <summary>The directory's rows, and the state that they are of.</summary>
public static class DirectoryRows
{
    /// <summary>All that is kept, or all that came from one source.</summary>
    public static async Task<DirectoryState> StateAsync(
        WideKeelDb db,
        long? source = null,
        CancellationToken cancel = default
    )
    {
        var people = await db
            .DirectoryPeople.AsNoTracking()
            .Where(p => source == null || p.SourceId == source)
            .ToListAsync(cancel);
        var groups = await db
            .DirectoryGroups.AsNoTracking()
            .Include(g => g.Members)
            .Where(g => g.RemovedAt == null && (source == null || g.SourceId == source))
            .ToListAsync(cancel);
        var places = await db
            .DirectoryPlaces.AsNoTracking()
            .Include(p => p.Links)
            .Where(p => source == null || p.SourceId == source)
            .ToListAsync(cancel);
        var grants = await db
            .DirectoryGrants.AsNoTracking()
            .Where(g => source == null || g.SourceId == source)
            .OrderBy(g => g.Id)
            .ToListAsync(cancel);
        var applications = await db
            .DirectoryApplications.AsNoTracking()
            .Include(a => a.Consents)
            .Where(a => source == null || a.SourceId == source)
            .ToListAsync(cancel);
        // Members of a source's groups may come from another one.
        var names = await MembersAsync(db, people, groups, source is null, cancel);
        var state = StateOf(people, groups, names, places, grants, applications);
        // What one source named may have gone with another: nobody reaches anything by it.
        return source is null ? DirectorySoundness.Cleared(state) : state;
    }

    /// <summary>Some of what is kept, of all sources; what is named and not kept is not in the answer.</summary>
    /// <param name="keys">The mail addresses of people, the keys of others; places come with what is granted on them.</param>
    internal static async Task<DirectoryState> PartAsync(
        WideKeelDb db,
        ILookup<DirectoryThing, string> keys,
        CancellationToken cancel
    )
    {
        var (mails, groupKeys) = (keys[DirectoryThing.Person].ToList(), keys[DirectoryThing.Group].ToList());
        var (places, applications) = (keys[DirectoryThing.Place].ToList(), keys[DirectoryThing.Application].ToList());
        var groups = await db
            .DirectoryGroups.AsNoTracking()
            .Include(g => g.Members)
            .Where(g => g.RemovedAt == null && groupKeys.Contains(g.Key))
            .ToListAsync(cancel);
        var names = await MembersAsync(db, groups, cancel);
        var people = await db.DirectoryPeople.AsNoTracking().Where(p => mails.Contains(p.Mail)).ToListAsync(cancel);
        var resources = await db
            .DirectoryPlaces.AsNoTracking()
            .Include(p => p.Links)
            .Where(p => places.Contains(p.Key))
            .ToListAsync(cancel);
        var grants = await db
            .DirectoryGrants.AsNoTracking()
            .Where(g => places.Contains(g.Place))
            .OrderBy(g => g.Id)
            .ToListAsync(cancel);
        var known = await db
            .DirectoryApplications.AsNoTracking()
            .Include(a => a.Consents)
            .Where(a => applications.Contains(a.Key))
            .ToListAsync(cancel);
        return StateOf(people, groups, names, resources, grants, known);
    }

    private static DirectoryState StateOf(
        List<DirectoryPerson> people,
        List<DirectoryGroup> groups,
        Dictionary<(long?, long?), string> names,
        List<DirectoryPlace> places,
        List<DirectoryGrant> grants,
        List<DirectoryApplication> applications
    ) =>
        new(
            [.. people.Select(StateOf)],
            [.. groups.Select(g => StateOf(g, names))],
            [.. places.Select(StateOf)],
            [.. grants.Select(g => new OutsideGrant(g.To, g.Place, g.Role))],
            [.. applications.Select(StateOf)]
        );

    private static OutsideGroup StateOf(DirectoryGroup group, Dictionary<(long?, long?), string> names) =>
        new(
            group.Key,
            group.Name,
            NullIfEmpty(group.Owner),
            [
                .. group
                    .Members.OrderBy(m => m.Id)
                    .Select(m => names.GetValueOrDefault((m.PersonId, m.SubgroupId)))
                    .OfType<string>(),
            ]
        );

    /// <summary>What the members of some groups are called.</summary>
    private static async Task<Dictionary<(long?, long?), string>> MembersAsync(
        WideKeelDb db,
        List<DirectoryGroup> groups,
        CancellationToken cancel
    )
    {
        var ids = groups.Select(g => g.Id).ToList();
        var members = db.DirectoryMemberships.Where(m => ids.Contains(m.GroupId));
        var names = await members
            .Join(db.DirectoryPeople, m => m.PersonId, p => p.Id, (_, p) => new { p.Id, p.Mail })
            .Distinct()
            .ToDictionaryAsync(p => ((long?)p.Id, (long?)null), p => p.Mail, cancel);
        foreach (
            var group in await members
                .Join(
                    db.DirectoryGroups.Where(g => g.RemovedAt == null),
                    m => m.SubgroupId,
                    g => g.Id,
                    (_, g) => new { g.Id, g.Key }
                )
                .Distinct()
                .ToListAsync(cancel)
        )
        {
            names[(null, group.Id)] = group.Key;
        }

        return names;
    }

    private static async Task<Dictionary<(long?, long?), string>> MembersAsync(
        WideKeelDb db,
        List<DirectoryPerson> people,
        List<DirectoryGroup> groups,
        bool all,
        CancellationToken cancel
    )
    {
        var names = all
            ? people.ToDictionary(p => ((long?)p.Id, (long?)null), p => p.Mail)
            : await db
                .DirectoryPeople.Select(p => new { p.Id, p.Mail })
                .ToDictionaryAsync(p => ((long?)p.Id, (long?)null), p => p.Mail, cancel);
        foreach (
            var (id, key) in all
                ? groups.Select(g => (g.Id, g.Key))
                : (
                    await db
                        .DirectoryGroups.Where(g => g.RemovedAt == null)
                        .Select(g => new { g.Id, g.Key })
                        .ToListAsync(cancel)
                ).Select(g => (g.Id, g.Key))
        )
        {
            names[(null, id)] = key;
        }

        return names;
    }

    /// <summary>
    /// Brings a source's rows from one state to another. What another source held and this one names goes over to it;
    /// whether it may is asked before.
    /// </summary>
    public static async Task KeepAsync(
        WideKeelDb db,
        long source,
        DirectoryState before,
        DirectoryState after,
        IReadOnlyList<DirectoryDifference> differences,
        Instant now,
        CancellationToken cancel = default
    )
    {
        await KeepPeopleAsync(db, source, before.People, after.People, now, cancel);
        await KeepGroupsAsync(db, source, before.Groups, after.Groups, now, cancel);
        await KeepPlacesAsync(db, source, before.Resources, after.Resources, cancel);
        await KeepGrantsAsync(db, source, before.Grants, after.Grants, cancel);
        await KeepApplicationsAsync(db, source, before.Applications, after.Applications, cancel);
        await db.SaveChangesAsync(cancel);
        await DirectoryTouches.ChangedAsync(db, Touched(before, after, differences), cancel);
    }

    /// <summary>What is touched by differences in things that stay; nothing where others come or go.</summary>
    private static List<(DirectoryThing, string)> Touched(
        DirectoryState before,
        DirectoryState after,
        IReadOnlyList<DirectoryDifference> differences
    )
    {
        var others = differences.Where(d => d.Thing != DirectoryThing.Grant).ToList();
        return others.All(d => d.How == DifferenceKind.Changes || IsLeaver(d))
            ?
            [
                .. others.Select(d => (d.Thing, d.Id)),
                .. before
                    .Grants.Except(after.Grants)
                    .Concat(after.Grants.Except(before.Grants))
                    .Select(g => (DirectoryThing.Grant, g.Resource))
                    .Distinct(),
            ]
            : [];

        // Who leaves keeps the row.
        static bool IsLeaver(DirectoryDifference d) =>
            d is { Thing: DirectoryThing.Person, How: DifferenceKind.Disappears };
    }

    private static async Task KeepPeopleAsync(
        WideKeelDb db,
        long source,
        IReadOnlyList<OutsidePerson> before,
        IReadOnlyList<OutsidePerson> after,
        Instant now,
        CancellationToken cancel
    )
    {
        var was = before.ToDictionary(p => p.Id, StringComparer.OrdinalIgnoreCase);
        var changed = after.Where(p => !was.TryGetValue(p.Id, out var old) || old != p).ToList();
        if (changed.Count == 0)
        {
            return;
        }

        var rows = await db.DirectoryPeople.ToDictionaryAsync(p => p.Mail, StringComparer.OrdinalIgnoreCase, cancel);
        foreach (var person in changed)
        {
            if (!rows.TryGetValue(person.Id, out var row))
            {
                rows[person.Id] = row = new()
                {
                    Name = person.Name,
                    Mail = person.Id,
                    MadeAt = now,
                };
                db.DirectoryPeople.Add(row);
            }

            Write(row, person);
            (row.SourceId, row.ChangedAt, row.RemovedAt) = (source, now, null);
            row.Version++;
        }
    }

    private static void Write(DirectoryPerson row, OutsidePerson person) =>
        (
            row.Name,
            row.Kind,
            row.Unit,
            row.Title,
            row.Manager,
            row.JoinedOn,
            row.LeavesOn,
            row.Sponsor,
            row.Suspended,
            row.SecondFactor
        ) = (
            person.Name,
            KindOf(person.Kind),
            person.Unit,
            person.Title,
            person.Manager,
            DayOf(person.Joined),
            DayOf(person.Left)?.PlusDays(-1),
            person.Sponsor ?? "",
            person.Suspended,
            person.SecondFactor
        );

    private static async Task KeepGroupsAsync(
        WideKeelDb db,
        long source,
        IReadOnlyList<OutsideGroup> before,
        IReadOnlyList<OutsideGroup> after,
        Instant now,
        CancellationToken cancel
    )
    {
        var was = before.ToDictionary(g => g.Id, StringComparer.Ordinal);
        var ids = after.Select(g => g.Id).ToHashSet(StringComparer.Ordinal);
        var changed = after.Where(g => !was.TryGetValue(g.Id, out var old) || !Same(old, g)).ToList();
        var gone = before.Where(g => !ids.Contains(g.Id)).Select(g => g.Id).ToHashSet(StringComparer.Ordinal);
        if (changed.Count + gone.Count == 0)
        {
            return;
        }

        var rows = await db
            .DirectoryGroups.Include(g => g.Members)
            .ToDictionaryAsync(g => g.Key, StringComparer.Ordinal, cancel);
        foreach (var row in gone.Select(id => rows[id]))
        {
            Remove(row, now);
        }

        var removed = gone.Select(id => (long?)rows[id].Id).ToList();
        await db.DirectoryMemberships.Where(m => removed.Contains(m.SubgroupId)).ExecuteDeleteAsync(cancel);

        foreach (var group in changed)
        {
            if (!rows.TryGetValue(group.Id, out var row))
            {
                rows[group.Id] = row = new()
                {
                    Key = group.Id,
                    Name = group.Name,
                    MadeAt = now,
                };
                db.DirectoryGroups.Add(row);
            }

            (row.SourceId, row.Name, row.Owner, row.ChangedAt, row.RemovedAt) = (
                source,
                group.Name,
                group.Owner ?? "",
                now,
                null
            );
            row.Version++;
        }

        await KeepMembersAsync(db, rows, changed, cancel);
    }

    /// <summary>A group that its source names no more: it stays for what refers to it, without members.</summary>
    public static void Remove(DirectoryGroup group, Instant now)
    {
        group.Members.Clear();
        (group.RemovedAt, group.ChangedAt) = (now, now);
        group.Version++;
    }

    private static async Task KeepMembersAsync(
        WideKeelDb db,
        Dictionary<string, DirectoryGroup> rows,
        List<OutsideGroup> changed,
        CancellationToken cancel
    )
    {
        // Ids of what is new are needed for the memberships.
        await db.SaveChangesAsync(cancel);
        var people = await db
            .DirectoryPeople.Select(p => new { p.Id, p.Mail })
            .ToDictionaryAsync(p => p.Mail, p => p.Id, StringComparer.OrdinalIgnoreCase, cancel);
        foreach (var group in changed)
        {
            SetMembers(
                rows[group.Id],
                group.Members.Select(m =>
                    people.TryGetValue(m, out var person) ? ((long?)person, (long?)null) : (null, rows[m].Id)
                )
            );
        }
    }

    /// <summary>Gives a group the members that it should have; those that it has keep their rows.</summary>
    /// <param name="members">Each the id of a person, or else of a group.</param>
    public static void SetMembers(DirectoryGroup group, IEnumerable<(long? Person, long? Subgroup)> members)
    {
        var wanted = members.ToHashSet();
        group.Members.RemoveAll(m => !wanted.Contains((m.PersonId, m.SubgroupId)));
        foreach (
            var (person, subgroup) in wanted.Except(group.Members.Select(m => (m.PersonId, m.SubgroupId))).ToList()
        )
        {
            group.Members.Add(new() { PersonId = person, SubgroupId = subgroup });
        }
    }

    private static async Task KeepPlacesAsync(
        WideKeelDb db,
        long source,
        IReadOnlyList<OutsideResource> before,
        IReadOnlyList<OutsideResource> after,
        CancellationToken cancel
    )
    {
        var was = before.ToDictionary(r => r.Id, StringComparer.Ordinal);
        var ids = after.Select(r => r.Id).ToHashSet(StringComparer.Ordinal);
        var changed = after.Where(r => !was.TryGetValue(r.Id, out var old) || !Same(old, r)).ToList();
        var gone = before.Where(r => !ids.Contains(r.Id)).Select(r => r.Id).ToHashSet(StringComparer.Ordinal);
        if (changed.Count + gone.Count == 0)
        {
            return;
        }

        var rows = await db
            .DirectoryPlaces.Include(p => p.Links)
            .ToDictionaryAsync(p => p.Key, StringComparer.Ordinal, cancel);
        db.DirectoryPlaces.RemoveRange(gone.Select(id => rows[id]));
        foreach (var place in changed)
        {
            if (!rows.TryGetValue(place.Id, out var row))
            {
                rows[place.Id] = row = new()
                {
                    Key = place.Id,
                    Name = place.Name,
                    Kind = place.Kind,
                };
                db.DirectoryPlaces.Add(row);
            }

            (row.SourceId, row.Name, row.Kind, row.Parent, row.Inherits) = (
                source,
                place.Name,
                place.Kind,
                place.Parent ?? "",
                place.Inherits
            );
            (row.Owner, row.OutsideAllowed, row.Sensitive, row.Region) = (
                place.Owner ?? "",
                place.OutsideAllowed,
                place.Sensitive,
                place.Region ?? ""
            );
            row.Links.Clear();
            row.Links.AddRange(place.Links.Select(RowOf));
        }
    }

    private static async Task KeepGrantsAsync(
        WideKeelDb db,
        long source,
        IReadOnlyList<OutsideGrant> before,
        IReadOnlyList<OutsideGrant> after,
        CancellationToken cancel
    )
    {
        var gone = before.Except(after).ToHashSet();
        if (gone.Count > 0)
        {
            var rows = await db.DirectoryGrants.Where(g => g.SourceId == source).ToListAsync(cancel);
            db.DirectoryGrants.RemoveRange(rows.Where(g => gone.Contains(new(g.To, g.Place, g.Role))));
            // A grant that another source brings in the same import must find its place free.
            await db.SaveChangesAsync(cancel);
        }

        var added = after.Except(before).ToList();
        var places = added.Select(g => g.Resource).Distinct().ToList();
        // What a disconnected source had given goes over.
        var there = await db
            .DirectoryGrants.Where(g => places.Contains(g.Place))
            .ToDictionaryAsync(g => new OutsideGrant(g.To, g.Place, g.Role), cancel);
        foreach (var grant in added)
        {
            if (there.TryGetValue(grant, out var row))
            {
                row.SourceId = source;
                continue;
            }

            db.DirectoryGrants.Add(
                new()
                {
                    SourceId = source,
                    To = grant.To,
                    Place = grant.Resource,
                    Role = grant.Role,
                }
            );
        }
    }

    private static async Task KeepApplicationsAsync(
        WideKeelDb db,
        long source,
        IReadOnlyList<OutsideApplication> before,
        IReadOnlyList<OutsideApplication> after,
        CancellationToken cancel
    )
    {
        var was = before.ToDictionary(a => a.Id, StringComparer.Ordinal);
        var ids = after.Select(a => a.Id).ToHashSet(StringComparer.Ordinal);
        var changed = after.Where(a => !was.TryGetValue(a.Id, out var old) || !Same(old, a)).ToList();
        var gone = before.Where(a => !ids.Contains(a.Id)).Select(a => a.Id).ToHashSet(StringComparer.Ordinal);
        if (changed.Count + gone.Count == 0)
        {
            return;
        }

        var rows = await db
            .DirectoryApplications.Include(a => a.Consents)
            .ToDictionaryAsync(a => a.Key, StringComparer.Ordinal, cancel);
        db.DirectoryApplications.RemoveRange(gone.Select(id => rows[id]));
        foreach (var application in changed)
        {
            if (!rows.TryGetValue(application.Id, out var row))
            {
                rows[application.Id] = row = new() { Key = application.Id, Name = application.Name };
                db.DirectoryApplications.Add(row);
            }

            (row.SourceId, row.Name, row.Publisher) = (source, application.Name, application.Publisher);
            row.Consents.Clear();
            row.Consents.AddRange(
                application.Consents.Select(c => new DirectoryConsent
                {
                    By = c.By,
                    Scopes = string.Join(' ', c.Scopes),
                    LastUsed = DayOf(c.LastUsed),
                })
            );
        }
    }

    /// <summary>An account has another address: what named it by the old one names it by the new.</summary>
    public static async Task RenameAsync(WideKeelDb db, string from, string to, CancellationToken cancel)
    {
        await db.DirectoryGrants.Where(g => g.To == from).ExecuteUpdateAsync(g => g.SetProperty(x => x.To, to), cancel);
        await db
            .DirectoryGroups.Where(g => g.Owner == from)
            .ExecuteUpdateAsync(g => g.SetProperty(x => x.Owner, to), cancel);
        await db
            .DirectoryPlaces.Where(p => p.Owner == from)
            .ExecuteUpdateAsync(p => p.SetProperty(x => x.Owner, to), cancel);
        await db
            .DirectoryPeople.Where(p => p.Manager == from)
            .ExecuteUpdateAsync(p => p.SetProperty(x => x.Manager, to), cancel);
        await db
            .DirectoryPeople.Where(p => p.Sponsor == from)
            .ExecuteUpdateAsync(p => p.SetProperty(x => x.Sponsor, to), cancel);
    }

    /// <summary>Does to the rows what a directory says that it did.</summary>
    // Long because each kind of change is one arm.
    public static async Task ApplyAsync(WideKeelDb db, DirectoryChange change, Instant now)
    {
        switch (change.Verb)
        {
            case DirectoryVerb.SignOut:
                return;
            case DirectoryVerb.Suspend or DirectoryVerb.Restore:
                var person = await db.DirectoryPeople.SingleAsync(p => p.Mail == change.Who);
                (person.Suspended, person.ChangedAt) = (change.Verb == DirectoryVerb.Suspend, now);
                person.Version++;
                break;
            case DirectoryVerb.AddMember or DirectoryVerb.RemoveMember:
                await MemberAsync(db, change, now);
                break;
            case DirectoryVerb.AddGrant:
                var owner = await db
                    .DirectoryPlaces.Where(p => p.Key == change.What)
                    .Select(p => p.SourceId)
                    .SingleAsync();
                if (!await Grants(db, change).AnyAsync())
                {
                    db.DirectoryGrants.Add(
                        new()
                        {
                            SourceId = owner,
                            To = change.Who,
                            Place = change.What!,
                            Role = change.Role!,
                        }
                    );
                }

                break;
            case DirectoryVerb.RemoveGrant:
                await Grants(db, change).ExecuteDeleteAsync();
                break;
            case DirectoryVerb.AddLink or DirectoryVerb.RemoveLink:
                var place = await db.DirectoryPlaces.Include(p => p.Links).SingleAsync(p => p.Key == change.What);
                place.Links.RemoveAll(l => l.To == change.Who && l.Role == (change.Role ?? "reader"));
                if (change.Verb == DirectoryVerb.AddLink)
                {
                    place.Links.Add(new() { To = change.Who, Role = change.Role ?? "reader" });
                }

                break;
            case DirectoryVerb.AddConsent or DirectoryVerb.RemoveConsent:
                var application = await db
                    .DirectoryApplications.Include(a => a.Consents)
                    .SingleAsync(a => a.Key == change.What);
                application.Consents.RemoveAll(c => c.By == change.Who);
                if (change.Verb == DirectoryVerb.AddConsent)
                {
                    application.Consents.Add(new() { By = change.Who, Scopes = change.Role ?? "" });
                }

                break;
            case DirectoryVerb.SetOwner:
                await db
                    .DirectoryGroups.Where(g => g.Key == change.What)
                    .ExecuteUpdateAsync(g => g.SetProperty(x => x.Owner, change.Who));
                await db
                    .DirectoryPlaces.Where(p => p.Key == change.What)
                    .ExecuteUpdateAsync(p => p.SetProperty(x => x.Owner, change.Who));
                break;
            default:
                throw new ArgumentOutOfRangeException(nameof(change));
        }

        await db.SaveChangesAsync();
        await DirectoryTouches.ChangedAsync(db, Touched(change));
    }

    private static IReadOnlyList<(DirectoryThing, string)> Touched(DirectoryChange change) =>
        change.Verb switch
        {
            DirectoryVerb.Suspend or DirectoryVerb.Restore => [(DirectoryThing.Person, change.Who)],
            DirectoryVerb.AddMember or DirectoryVerb.RemoveMember => [(DirectoryThing.Group, change.What!)],
            DirectoryVerb.AddGrant or DirectoryVerb.RemoveGrant => [(DirectoryThing.Grant, change.What!)],
            DirectoryVerb.AddLink or DirectoryVerb.RemoveLink => [(DirectoryThing.Place, change.What!)],
            DirectoryVerb.AddConsent or DirectoryVerb.RemoveConsent => [(DirectoryThing.Application, change.What!)],
            DirectoryVerb.SetOwner => [(DirectoryThing.Group, change.What!), (DirectoryThing.Place, change.What!)],
            DirectoryVerb.SignOut => [],
            _ => throw new ArgumentOutOfRangeException(nameof(change)),
        };

    private static IQueryable<DirectoryGrant> Grants(WideKeelDb db, DirectoryChange change) =>
        db.DirectoryGrants.Where(g => g.To == change.Who && g.Place == change.What && g.Role == change.Role);

    private static async Task MemberAsync(WideKeelDb db, DirectoryChange change, Instant now)
    {
        var group = await db.DirectoryGroups.Include(g => g.Members).SingleAsync(g => g.Key == change.What);
        var person = await db
            .DirectoryPeople.Where(p => p.Mail == change.Who)
            .Select(p => (long?)p.Id)
            .SingleOrDefaultAsync();
        var subgroup = person is not null
            ? null
            : await db.DirectoryGroups.Where(g => g.Key == change.Who).Select(g => (long?)g.Id).SingleAsync();
        var members = group.Members.Select(m => (m.PersonId, m.SubgroupId));
        SetMembers(
            group,
            change.Verb == DirectoryVerb.AddMember
                ? members.Append((person, subgroup))
                : members.Where(m => m != (person, subgroup))
        );
        group.ChangedAt = now;
        group.Version++;
    }

    private static bool Same(OutsideGroup a, OutsideGroup b) =>
        (a.Name, a.Owner ?? "") == (b.Name, b.Owner ?? "") && a.Members.ToHashSet().SetEquals(b.Members);

    private static bool Same(OutsideResource a, OutsideResource b) =>
        a with { Links = [] } == b with { Links = [] } && a.Links.SequenceEqual(b.Links);

    private static bool Same(OutsideApplication a, OutsideApplication b) =>
        (a.Name, a.Publisher) == (b.Name, b.Publisher)
        && a.Consents.Select(Text).SequenceEqual(b.Consents.Select(Text));

    private static string Text(OutsideConsent consent) =>
        $"{consent.By}\n{string.Join(' ', consent.Scopes)}\n{consent.LastUsed}";

    private static DirectoryLink RowOf(OutsideLink link) =>
        new()
        {
            To = link.To,
            Role = link.Role,
            By = link.By,
            Ends = DayOf(link.Ends),
        };

    /// <summary>An account as a directory says it.</summary>
    public static OutsidePerson StateOf(DirectoryPerson p) =>
        new(
            p.Mail,
            p.Name,
            Word(p.Kind),
            p.Unit,
            p.Title,
            p.Manager,
            Iso(p.LeavesOn?.PlusDays(1)),
            NullIfEmpty(p.Sponsor),
            p.Suspended,
            p.SecondFactor,
            Iso(p.JoinedOn)
        );

    private static OutsideResource StateOf(DirectoryPlace p) =>
        new(
            p.Key,
            p.Name,
            p.Kind,
            NullIfEmpty(p.Parent),
            p.Inherits,
            NullIfEmpty(p.Owner),
            p.OutsideAllowed,
            p.Sensitive,
            NullIfEmpty(p.Region),
            [.. p.Links.OrderBy(l => l.Id).Select(l => new OutsideLink(l.To, l.Role, l.By, Iso(l.Ends)))]
        );

    private static OutsideApplication StateOf(DirectoryApplication a) =>
        new(
            a.Key,
            a.Name,
            a.Publisher,
            [
                .. a
                    .Consents.OrderBy(c => c.Id)
                    .Select(c => new OutsideConsent(c.By, c.Scopes.Split(' '), Iso(c.LastUsed))),
            ]
        );

    /// <summary>The kind that a word stands for; a word that is unknown stands for a person.</summary>
    public static AccountKind KindOf(string word) =>
        Enum.TryParse<AccountKind>(word, ignoreCase: true, out var kind) && Enum.IsDefined(kind) ? kind : default;

    private static string Word(AccountKind kind) =>
        kind switch
        {
            AccountKind.Person => "person",
            AccountKind.Guest => "guest",
            AccountKind.Service => "service",
            _ => throw new ArgumentOutOfRangeException(nameof(kind)),
        };

    private static LocalDate? DayOf(string? iso) =>
        iso is not null && LocalDatePattern.Iso.Parse(iso) is { Success: true, Value: var day } ? day : null;

    private static string? Iso(LocalDate? day) => day is { } known ? LocalDatePattern.Iso.Format(known) : null;

    private static string? NullIfEmpty(string text) => text.Length == 0 ? null : text;
}
