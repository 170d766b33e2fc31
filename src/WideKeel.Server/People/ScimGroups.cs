using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>Groups as SCIM's groups (RFC 7643, 4.2), of users and of groups.</summary>
internal sealed class ScimGroups(ScimUsers users) : ScimKind
{
    private const int Longest = 200;
    private const int MostMembers = 100_000;

    public override string Name => "Group";

    public override string Schema => Scim.Group;

    public override char Letter => 'g';

    public override IReadOnlyList<string> Attributes { get; } = ["displayName", "externalId", "members"];

    public override async Task<IReadOnlyList<JsonObject>> AllAsync(
        WideKeelDb db,
        long source,
        string at,
        CancellationToken cancel
    ) => await WrittenAsync(db, at, Rows(db, source), cancel);

    public override async Task<IReadOnlyList<JsonObject>?> EqualAsync(
        WideKeelDb db,
        long source,
        string at,
        (string Attribute, string Text) asked,
        CancellationToken cancel
    )
    {
        var rows = Rows(db, source);
        return asked.Attribute.ToLowerInvariant() switch
        {
            "displayname" => await WrittenAsync(
                db,
                at,
                rows.Where(g => EF.Functions.Collate(g.Name, "NOCASE") == asked.Text),
                cancel
            ),
            "externalid" => await WrittenAsync(db, at, rows.Where(g => g.ExternalId == asked.Text), cancel),
            _ => null,
        };
    }

    public override async Task<JsonObject?> OneAsync(
        WideKeelDb db,
        long source,
        string at,
        long id,
        CancellationToken cancel
    ) => (await WrittenAsync(db, at, Rows(db, source).Where(g => g.Id == id), cancel)).SingleOrDefault();

    private static IQueryable<DirectoryGroup> Rows(WideKeelDb db, long source) =>
        db
            .DirectoryGroups.AsNoTracking()
            .Include(g => g.Members)
            .Where(g => g.SourceId == source && g.RemovedAt == null);

    private async Task<List<JsonObject>> WrittenAsync(
        WideKeelDb db,
        string at,
        IQueryable<DirectoryGroup> rows,
        CancellationToken cancel
    )
    {
        var groups = await rows.OrderBy(g => g.Id).ToListAsync(cancel);
        var people = groups.SelectMany(g => g.Members).Select(m => m.PersonId).Distinct().ToList();
        var below = groups.SelectMany(g => g.Members).Select(m => m.SubgroupId).Distinct().ToList();
        var names = await db
            .DirectoryPeople.Where(p => people.Contains(p.Id))
            .ToDictionaryAsync(p => users.IdOf(p.Id), p => p.Name, cancel);
        foreach (
            var group in await db
                .DirectoryGroups.Where(g => below.Contains(g.Id))
                .Select(g => new { g.Id, g.Name })
                .ToListAsync(cancel)
        )
        {
            names[IdOf(group.Id)] = group.Name;
        }

        return [.. groups.Select(g => Written(g, at, names))];
    }

    private JsonObject Written(DirectoryGroup group, string at, Dictionary<string, string> names)
    {
        var id = IdOf(group.Id);
        var written = new JsonObject
        {
            ["schemas"] = new JsonArray(Scim.Group),
            ["id"] = id,
            ["displayName"] = group.Name,
            ["members"] = new JsonArray([
                .. group.Members.OrderBy(m => m.Id).Select(m => (JsonNode)Member(m, at, names)),
            ]),
            ["meta"] = Scim.Meta(Name, $"{at}/Groups/{id}", group.MadeAt, group.ChangedAt, group.Version),
        };
        if (group.ExternalId.Length > 0)
        {
            written["externalId"] = group.ExternalId;
        }

        return written;
    }

    private JsonObject Member(DirectoryMembership member, string at, Dictionary<string, string> names)
    {
        ScimKind kind = member.PersonId is null ? this : users;
        var id = kind.IdOf(member.PersonId ?? member.SubgroupId!.Value);
        return new()
        {
            ["value"] = id,
            ["$ref"] = $"{at}/{kind.Endpoint}/{id}",
            ["display"] = names.GetValueOrDefault(id, id),
            ["type"] = kind.Name,
        };
    }

    public override async Task<Outcome<long>> KeepAsync(
        WriteSession session,
        DirectorySource source,
        long? id,
        JsonObject resource,
        CancellationToken cancel
    )
    {
        var name = Scim.Text(resource, "displayName");
        if (name.Length is 0 or > Longest)
        {
            return Scim.Wrong("displayName", $"displayName is needed, and has at most {Longest} characters.");
        }

        var same = await session
            .Db.DirectoryGroups.Include(g => g.Members)
            .FirstOrDefaultAsync(g => g.Id != id && g.Name == name, cancel);
        if (
            (same is not null && (id is not null || same.RemovedAt is null))
            || await session.Db.DirectoryPeople.AnyAsync(p => p.Mail == name, cancel)
        )
        {
            return Scim.Taken("displayName", $"There is a group or an account “{name}” already.");
        }

        var members = await MembersAsync(session.Db, source, resource, cancel);
        if (members.Refused)
        {
            return members.Refusal!;
        }

        var row = id is null
            ? same
            : await session
                .Db.DirectoryGroups.Include(g => g.Members)
                .SingleAsync(g => g.Id == id && g.SourceId == source.Id, cancel);
        row ??= session
            .Db.DirectoryGroups.Add(
                new()
                {
                    Key = await FreeKeyAsync(session.Db, name, cancel),
                    Name = name,
                    MadeAt = session.Now,
                }
            )
            .Entity;
        await KeptAsync(session, source, row, (name, Scim.Text(resource, "externalId")), members.Value);
        return row.Id;
    }

    private static async Task KeptAsync(
        WriteSession session,
        DirectorySource source,
        DirectoryGroup row,
        (string Name, string ExternalId) read,
        List<(long?, long?)> members
    )
    {
        var added = row.Id == 0 || row.RemovedAt is not null;
        var (was, before) = (row.Name, row.Members.Select(m => (m.PersonId, m.SubgroupId)).ToHashSet());
        (row.SourceId, row.Name, row.ExternalId, row.ChangedAt, row.RemovedAt) = (
            source.Id,
            read.Name,
            read.ExternalId,
            session.Now,
            null
        );
        row.Version++;
        DirectoryRows.SetMembers(row, members);
        await session.Db.SaveChangesAsync();
        await DirectoryTouches.ChangedAsync(session.Db, added ? [] : [(DirectoryThing.Group, row.Key)]);
        Note(
            session,
            source,
            added ? "directory-group-added" : "directory-group-changed",
            row.Name,
            Says(was, row.Name, members.Except(before).Count(), before.Except(members).Count())
        );
    }

    private static IEnumerable<string> Says(string was, string name, int came, int went)
    {
        if (was != name)
        {
            yield return $"name: {was} → {name}";
        }

        if (came > 0)
        {
            yield return string.Create(CultureInfo.InvariantCulture, $"members in: {came}");
        }

        if (went > 0)
        {
            yield return string.Create(CultureInfo.InvariantCulture, $"members out: {went}");
        }
    }

    private async Task<Outcome<List<(long?, long?)>>> MembersAsync(
        WideKeelDb db,
        DirectorySource source,
        JsonObject resource,
        CancellationToken cancel
    )
    {
        var values = ScimPath
            .Parse("members.value")
            .Value.Values(resource)
            .Select(v => v is JsonValue value && value.TryGetValue<string>(out var text) ? text : "")
            .Distinct()
            .ToList();
        if (values.Count > MostMembers)
        {
            return Scim.Wrong("members", "A group has at most 100,000 members.");
        }

        var people = (
            await db
                .DirectoryPeople.Where(p => p.SourceId == source.Id && p.RemovedAt == null)
                .Select(p => p.Id)
                .ToListAsync(cancel)
        ).ToHashSet();
        var groups = (
            await db
                .DirectoryGroups.Where(g => g.SourceId == source.Id && g.RemovedAt == null)
                .Select(g => g.Id)
                .ToListAsync(cancel)
        ).ToHashSet();
        List<(long?, long?)> members = [];
        foreach (var value in values)
        {
            if (users.Number(value) is { } person && people.Contains(person))
            {
                members.Add((person, null));
            }
            else if (Number(value) is { } group && groups.Contains(group))
            {
                members.Add((null, group));
            }
            else
            {
                return Scim.Wrong("members", $"There is no user and no group “{value}” to be a member.");
            }
        }

        return members;
    }

    /// <summary>What grants name the group by: its first name, with a number where another group had that.</summary>
    private static async Task<string> FreeKeyAsync(WideKeelDb db, string name, CancellationToken cancel)
    {
        var key = name;
        for (var n = 2; await db.DirectoryGroups.AnyAsync(g => g.Key == key, cancel); n++)
        {
            key = string.Create(CultureInfo.InvariantCulture, $"{name} ({n})");
        }

        return key;
    }

    public override async Task RemoveAsync(
        WriteSession session,
        DirectorySource source,
        long id,
        CancellationToken cancel
    )
    {
        var row = await session.Db.DirectoryGroups.Include(g => g.Members).SingleAsync(g => g.Id == id, cancel);
        DirectoryRows.Remove(row, session.Now);
        await session.Db.DirectoryMemberships.Where(m => m.SubgroupId == id).ExecuteDeleteAsync(cancel);
        await session.Db.SaveChangesAsync(cancel);
        await DirectoryTouches.ChangedAsync(session.Db, [], cancel);
        Note(session, source, "directory-group-removed", row.Name, []);
    }
}
