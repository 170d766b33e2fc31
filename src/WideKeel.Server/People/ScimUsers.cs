using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>Accounts as SCIM's users (RFC 7643, 4.1 and 4.3).</summary>
internal sealed class ScimUsers : ScimKind
{
    private const string Department = $"{ScimPath.Enterprise}:department";
    private const string Manager = $"{ScimPath.Enterprise}:manager";
    private const int Longest = 200;

    public override string Name => "User";

    public override string Schema => Scim.User;

    public override char Letter => 'u';

    public override IReadOnlyList<string> Attributes { get; } =
    [
        "userName",
        "externalId",
        "name",
        "displayName",
        "title",
        "userType",
        "active",
        "emails",
        ScimPath.Enterprise,
        Department,
        Manager,
    ];

    public override async Task<IReadOnlyList<JsonObject>> AllAsync(
        WideKeelDb db,
        long source,
        string at,
        CancellationToken cancel
    ) => await WrittenAsync(db, source, at, Rows(db, source), cancel);

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
            "username" => await WrittenAsync(db, source, at, rows.Where(p => p.UserName == asked.Text), cancel),
            "externalid" => await WrittenAsync(db, source, at, rows.Where(p => p.ExternalId == asked.Text), cancel),
            _ => null,
        };
    }

    public override async Task<JsonObject?> OneAsync(
        WideKeelDb db,
        long source,
        string at,
        long id,
        CancellationToken cancel
    ) => (await WrittenAsync(db, source, at, Rows(db, source).Where(p => p.Id == id), cancel)).SingleOrDefault();

    private static IQueryable<DirectoryPerson> Rows(WideKeelDb db, long source) =>
        db.DirectoryPeople.AsNoTracking().Where(p => p.SourceId == source && p.RemovedAt == null);

    private async Task<List<JsonObject>> WrittenAsync(
        WideKeelDb db,
        long source,
        string at,
        IQueryable<DirectoryPerson> rows,
        CancellationToken cancel
    )
    {
        var people = await rows.OrderBy(p => p.Id).ToListAsync(cancel);
        var managers = people.Select(p => p.Manager).Where(m => m.Length > 0).Distinct().ToList();
        var names = await db
            .DirectoryPeople.Where(p => managers.Contains(p.Mail) && p.SourceId == source)
            .ToDictionaryAsync(p => p.Mail, p => (p.Id, p.Name), StringComparer.OrdinalIgnoreCase, cancel);
        var ids = people.Select(p => (long?)p.Id).ToList();
        var groups = (
            await (
                from m in db.DirectoryMemberships
                join g in db.DirectoryGroups on m.GroupId equals g.Id
                where ids.Contains(m.PersonId)
                select new
                {
                    m.PersonId,
                    g.Id,
                    g.Name,
                }
            ).ToListAsync(cancel)
        ).ToLookup(g => g.PersonId, g => (g.Id, g.Name));
        return [.. people.Select(p => Written(p, at, names, groups[p.Id]))];
    }

    private JsonObject Written(
        DirectoryPerson person,
        string at,
        Dictionary<string, (long Id, string Name)> managers,
        IEnumerable<(long Id, string Name)> groups
    )
    {
        var id = IdOf(person.Id);
        var user = new JsonObject
        {
            ["schemas"] = new JsonArray(Scim.User, ScimPath.Enterprise),
            ["id"] = id,
            ["userName"] = person.UserName,
            ["name"] = Filled(
                ("formatted", person.Name),
                ("givenName", person.GivenName),
                ("familyName", person.FamilyName)
            ),
            ["displayName"] = person.Name,
            ["userType"] = person.Kind.ToString(),
            ["active"] = !person.Suspended,
            ["meta"] = Scim.Meta(Name, $"{at}/Users/{id}", person.MadeAt, person.ChangedAt, person.Version),
        };
        foreach (var (key, value) in Filled(("externalId", person.ExternalId), ("title", person.Title)))
        {
            user[key] = value!.DeepClone();
        }

        if (Core.People.MailAddress.IsOne(person.Mail))
        {
            user["emails"] = new JsonArray(
                new JsonObject
                {
                    ["value"] = person.Mail,
                    ["type"] = "work",
                    ["primary"] = true,
                }
            );
        }

        user["groups"] = new JsonArray([
            .. groups.Select(g =>
                (JsonNode)
                    new JsonObject
                    {
                        ["value"] = $"g{g.Id}",
                        ["$ref"] = $"{at}/Groups/g{g.Id}",
                        ["display"] = g.Name,
                        ["type"] = "direct",
                    }
            ),
        ]);
        user[ScimPath.Enterprise] = Extension(person, at, managers);
        return user;
    }

    private JsonObject Extension(DirectoryPerson person, string at, Dictionary<string, (long Id, string Name)> managers)
    {
        var extension = Filled(("department", person.Unit));
        if (managers.TryGetValue(person.Manager, out var manager))
        {
            extension["manager"] = new JsonObject
            {
                ["value"] = IdOf(manager.Id),
                ["$ref"] = $"{at}/Users/{IdOf(manager.Id)}",
                ["displayName"] = manager.Name,
            };
        }

        return extension;
    }

    private static JsonObject Filled(params (string Name, string Value)[] members) =>
        new(members.Where(m => m.Value.Length > 0).Select(m => KeyValuePair.Create(m.Name, (JsonNode?)m.Value)));

    public override async Task<Outcome<long>> KeepAsync(
        WriteSession session,
        DirectorySource source,
        long? id,
        JsonObject resource,
        CancellationToken cancel
    )
    {
        var userName = Scim.Text(resource, "userName");
        var kind = DirectoryRows.KindOf(Scim.Text(resource, "userType"));
        var mail = MailOf(resource, userName, kind);
        if (Check(resource, userName, mail) is { } malformed)
        {
            return malformed;
        }

        var row = id is null
            ? null
            : await session.Db.DirectoryPeople.SingleAsync(p => p.Id == id && p.SourceId == source.Id, cancel);
        var same = await session.Db.DirectoryPeople.FirstOrDefaultAsync(
            p => p.Id != id && (p.Mail == mail || (p.SourceId == source.Id && p.UserName == userName)),
            cancel
        );
        if (same is not null && await HeldAsync(session.Db, source, same, row, cancel) is { } taken)
        {
            return taken;
        }

        var manager = await ManagerAsync(session.Db, source, resource, cancel);
        if (manager.Refused)
        {
            return manager.Refusal!;
        }

        // Whoever was deleted and comes back is the person they were: what names them goes on.
        row ??=
            same
            ?? session
                .Db.DirectoryPeople.Add(
                    new()
                    {
                        Name = mail!,
                        Mail = mail!,
                        MadeAt = session.Now,
                    }
                )
                .Entity;
        await KeptAsync(session, source, row, resource, (userName, mail!, kind, manager.Value));
        return row.Id;
    }

    private static async Task KeptAsync(
        WriteSession session,
        DirectorySource source,
        DirectoryPerson row,
        JsonObject resource,
        (string UserName, string Mail, AccountKind Kind, string Manager) read
    )
    {
        var before = row.Id == 0 || row.RemovedAt is not null ? null : DirectoryRows.StateOf(row);
        var isThere = before is not null && row.Mail == read.Mail;
        if (before is not null && !string.Equals(row.Mail, read.Mail, StringComparison.OrdinalIgnoreCase))
        {
            await DirectoryRows.RenameAsync(session.Db, row.Mail, read.Mail, CancellationToken.None);
            foreach (var follower in session.Services.GetServices<IAddressFollower>())
            {
                await follower.FollowAsync(session.Db, row.Mail, read.Mail, CancellationToken.None);
            }
        }

        Write(row, source.Id, resource, read);
        row.LeavesOn = row.RemovedAt is null ? row.LeavesOn : null;
        (row.RemovedAt, row.ChangedAt) = (null, session.Now);
        row.Version++;
        await session.Db.SaveChangesAsync();
        await DirectoryTouches.ChangedAsync(session.Db, isThere ? [(DirectoryThing.Person, row.Mail)] : []);
        Note(
            session,
            source,
            before is null ? "directory-account-added" : "directory-account-changed",
            row.Mail,
            DirectoryDifferences.Of(before, DirectoryRows.StateOf(row))
        );
    }

    private static void Write(
        DirectoryPerson row,
        long source,
        JsonObject resource,
        (string UserName, string Mail, AccountKind Kind, string Manager) read
    )
    {
        (row.SourceId, row.UserName, row.Mail, row.Kind, row.Manager) = (
            source,
            read.UserName,
            read.Mail,
            read.Kind,
            read.Manager
        );
        (row.ExternalId, row.Title, row.Unit) = (
            Scim.Text(resource, "externalId"),
            Scim.Text(resource, "title"),
            Scim.Text(resource, Department)
        );
        (row.GivenName, row.FamilyName) = (
            Scim.Text(resource, "name.givenName"),
            Scim.Text(resource, "name.familyName")
        );
        string[] names =
        [
            Scim.Text(resource, "displayName"),
            Scim.Text(resource, "name.formatted"),
            $"{row.GivenName} {row.FamilyName}".Trim(),
            read.UserName,
        ];
        row.Name = names.First(n => n.Length > 0);
        row.Suspended = Scim.Flag(resource, "active") == false;
    }

    /// <summary>The primary address, or else the first, or else the user name where it is one.</summary>
    private static string? MailOf(JsonObject resource, string userName, AccountKind kind)
    {
        var primary = Scim.Text(resource, "emails[primary eq true].value");
        var mail = primary.Length > 0 ? primary : Scim.Text(resource, "emails.value");
        return mail.Length > 0 ? mail
            : Core.People.MailAddress.IsOne(userName) || kind == AccountKind.Service ? userName
            : null;
    }

    private static Refusal? Check(JsonObject resource, string userName, string? mail)
    {
        if (userName.Length is 0 or > Longest)
        {
            return Scim.Wrong("userName", $"userName is needed, and has at most {Longest} characters.");
        }

        if (mail is null || (mail != userName && !Core.People.MailAddress.IsOne(mail)))
        {
            return Scim.Wrong(
                "emails",
                "An account has an e-mail address, or its userName is one; services need none."
            );
        }

        var active = ScimPath.Parse("active").Value.Values(resource).FirstOrDefault();
        if (active is not null && Scim.Flag(resource, "active") is null)
        {
            return Scim.Wrong("active", "active is true or false.");
        }

        string[] texts = ["displayName", "title", "externalId", "name.givenName", "name.familyName", Department];
        return texts.FirstOrDefault(t => Scim.Text(resource, t).Length > Longest) is { } text
            ? Scim.Wrong(text, $"{text} has at most {Longest} characters.")
            : null;
    }

    /// <summary>Why an account that has the name or address already keeps it, or null where it gives it up.</summary>
    private static async Task<Refusal?> HeldAsync(
        WideKeelDb db,
        DirectorySource source,
        DirectoryPerson same,
        DirectoryPerson? row,
        CancellationToken cancel
    )
    {
        if (row is null && same.SourceId == source.Id && same.RemovedAt is not null)
        {
            return null;
        }

        var from = await db.DirectorySources.SingleAsync(s => s.Id == same.SourceId, cancel);
        return row is null && from.EndedAt is not null
            ? null
            : Scim.Taken(
                "userName",
                from.Id == source.Id
                    ? $"Another account has the userName or address of “{same.Mail}”."
                    : $"“{same.Mail}” comes from “{from.Name}”; one source says what there is to say of each."
            );
    }

    /// <summary>The manager's address; clients send an id, and some an address.</summary>
    private async Task<Outcome<string>> ManagerAsync(
        WideKeelDb db,
        DirectorySource source,
        JsonObject resource,
        CancellationToken cancel
    )
    {
        var value = Scim.Text(resource, $"{Manager}.value");
        value = value.Length > 0 ? value : Scim.Text(resource, Manager);
        if (value.Length == 0 || Core.People.MailAddress.IsOne(value))
        {
            return value;
        }

        var id = Number(value);
        var mail = await db
            .DirectoryPeople.Where(p => p.Id == id && p.SourceId == source.Id && p.RemovedAt == null)
            .Select(p => p.Mail)
            .SingleOrDefaultAsync(cancel);
        return mail is null ? Scim.Wrong("manager", $"There is no user “{value}” to be the manager.") : mail;
    }

    /// <summary>The account has left and is in no group any more; what it was granted is to be mended.</summary>
    public override async Task RemoveAsync(
        WriteSession session,
        DirectorySource source,
        long id,
        CancellationToken cancel
    )
    {
        var row = await session.Db.DirectoryPeople.SingleAsync(p => p.Id == id, cancel);
        var yesterday = session.Services.GetRequiredService<OrganisationCalendar>().Today.PlusDays(-1);
        (row.RemovedAt, row.ChangedAt) = (session.Now, session.Now);
        row.LeavesOn = row.LeavesOn is { } leaves && leaves < yesterday ? leaves : yesterday;
        row.Version++;
        var memberships = session.Db.DirectoryMemberships.Where(m => m.PersonId == id);
        var groups = await session
            .Db.DirectoryGroups.Where(g => memberships.Any(m => m.GroupId == g.Id))
            .Select(g => g.Key)
            .ToListAsync(cancel);
        await memberships.ExecuteDeleteAsync(cancel);
        await session.Db.SaveChangesAsync(cancel);
        await DirectoryTouches.ChangedAsync(
            session.Db,
            [(DirectoryThing.Person, row.Mail), .. groups.Select(g => (DirectoryThing.Group, g))],
            cancel
        );
        Note(session, source, "directory-account-removed", row.Mail, []);
    }
}
