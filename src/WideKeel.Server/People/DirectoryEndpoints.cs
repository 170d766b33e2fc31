using System.Globalization;
using System.Text.Json.Nodes;
using CsvHelper;
using CsvHelper.Configuration;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.Matters;
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
    bool SignsIn,
    IReadOnlyList<string> Groups,
    IReadOnlyList<PersonHold> Holds
);

public sealed record PersonHold(long MatterId, string Matter, string MatterName, int OrdersInForce);

public sealed record DirectoryGroupView(long Id, string Name, IReadOnlyList<string> Members);

/// <param name="People">CSV with the columns name, mail, unit, title, manager (a mail address), leaves (a date); null
/// leaves people as they are.</param>
/// <param name="Groups">CSV with the columns group, member (a mail address, or the name of another group); null leaves
/// groups as they are.</param>
public sealed record DirectoryImport(string? People, string? Groups);

public sealed record DirectoryImported(int Added, int Changed, int Groups);

/// <summary>The organisation's people and groups, as they arrive from its directory by CSV.</summary>
public static class DirectoryEndpoints
{
    private const int Most = 500;

    public static void MapDirectory(this IEndpointRouteBuilder api)
    {
        api.MapGet("/directory/people", People).Requires(Right.ReadDirectory);
        api.MapGet("/directory/groups", Groups).Requires(Right.ReadDirectory);
        api.MapPost("/directory", Import).Requires(Right.ManagePeople);
    }

    private static async Task<Reply<IReadOnlyList<DirectoryPersonView>>> People(
        string? words,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var people = await db
            .DirectoryPeople.AsNoTracking()
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
        var accounts = (
            await db.Users.AsNoTracking().Where(p => p.Active).Select(p => p.Email!).ToListAsync(cancel)
        ).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var own = caller.Matters.Keys.ToList();
        var custodians = (
            await db
                .Custodians.AsNoTracking()
                .Where(c => own.Contains(c.MatterId) && ids.Contains(c.PersonId))
                .ToListAsync(cancel)
        ).ToLookup(c => c.PersonId);
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
                    accounts.Contains(p.Mail),
                    [.. groups[p.Id].Order(StringComparer.OrdinalIgnoreCase)],
                    [
                        .. custodians[p.Id]
                            .Select(c => new PersonHold(
                                c.MatterId,
                                matters[c.MatterId].Number,
                                matters[c.MatterId].Name,
                                orders[c.MatterId]
                                    .Count(o =>
                                        o.InForce!.Custodians.Contains(c.Id)
                                        || o.InForce.Containers.Intersect(c.Containers).Any()
                                    )
                            )),
                    ]
                ))
                .ToList();
    }

    private static async Task<Reply<IReadOnlyList<DirectoryGroupView>>> Groups(WideKeelDb db, CancellationToken cancel)
    {
        var groups = await db
            .DirectoryGroups.AsNoTracking()
            .Include(g => g.Members)
            .OrderBy(g => g.Name)
            .ToListAsync(cancel);
        var people = await db.DirectoryPeople.AsNoTracking().ToDictionaryAsync(p => p.Id, p => p.Name, cancel);
        var names = groups.ToDictionary(g => g.Id, g => g.Name);
        return (Outcome<IReadOnlyList<DirectoryGroupView>>)
            groups
                .Select(g => new DirectoryGroupView(
                    g.Id,
                    g.Name,
                    [
                        .. g
                            .Members.Select(m => m.PersonId is { } p ? people[p] : names[m.SubgroupId!.Value])
                            .Order(StringComparer.OrdinalIgnoreCase),
                    ]
                ))
                .ToList();
    }

    /// <summary>
    /// All or nothing; a line that cannot be read refuses the whole, by its number. People are never removed: who has
    /// left says so by a date.
    /// </summary>
    private static async Task<Reply<DirectoryImported>> Import(
        DirectoryImport request,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<DirectoryImported>(
            caller.Actor,
            session => Entrances.WatchedAsync(session, () => ImportAsync(session, request, cancel), cancel),
            cancel
        );

    private static async Task<Outcome<DirectoryImported>> ImportAsync(
        WriteSession session,
        DirectoryImport request,
        CancellationToken cancel
    )
    {
        var (added, changed) = (0, 0);
        var known = await session.Db.DirectoryPeople.ToDictionaryAsync(p => p.Mail.ToUpperInvariant(), cancel);
        var people = Rows(request.People, ["name", "mail"], out var lacking);
        if (lacking is not null)
        {
            return lacking;
        }

        foreach (var (line, row) in people)
        {
            if (CheckPerson(line, row) is { } malformed)
            {
                return malformed;
            }

            var mail = row("mail");
            if (!known.TryGetValue(mail.ToUpperInvariant(), out var person))
            {
                known[mail.ToUpperInvariant()] = person = new() { Name = row("name"), Mail = mail };
                session.Db.DirectoryPeople.Add(person);
                added++;
            }

            (person.Name, person.Unit, person.Title, person.Manager, person.LeavesOn) = (
                row("name"),
                row("unit"),
                row("title"),
                row("manager"),
                row("leaves").Length == 0 ? null : LocalDatePattern.Iso.Parse(row("leaves")).Value
            );
            changed += session.Db.Entry(person).State == EntityState.Modified ? 1 : 0;
        }

        await session.Db.SaveChangesAsync(cancel);
        Outcome<int> groups = request.Groups is null
            ? 0
            : await ImportGroupsAsync(session, request.Groups, known, cancel);
        if (groups.Refused)
        {
            return groups.Refusal!;
        }

        session.Record(
            "directory-imported",
            new("directory", "1"),
            after: new JsonObject
            {
                ["added"] = added,
                ["changed"] = changed,
                ["groups"] = groups.Value,
            }
        );
        return new DirectoryImported(added, changed, groups.Value);
    }

    private static Refusal? CheckPerson(int line, Func<string, string> row) =>
        row("name").Length is 0 or > 200
        || !Core.People.MailAddress.IsOne(row("mail"))
        || (row("leaves").Length > 0 && !LocalDatePattern.Iso.Parse(row("leaves")).Success)
            ? new Refusal(
                "line-malformed",
                "people",
                $"Line {line}: a person needs a name and a mail address; leaves is empty or a date "
                    + $"such as 2026-09-30. Nothing was taken in."
            )
            : null;

    /// <summary>Groups take the members of the file in place of those that they had. Returns how many groups.</summary>
    private static async Task<Outcome<int>> ImportGroupsAsync(
        WriteSession session,
        string text,
        Dictionary<string, DirectoryPerson> known,
        CancellationToken cancel
    )
    {
        var groups = 0;
        var memberships = Rows(text, ["group", "member"], out var missing)
            .Select(r => (r.Line, Group: r.Row("group"), Member: r.Row("member")))
            .ToList();
        if (missing is not null)
        {
            return missing;
        }

        var byName = await session.Db.DirectoryGroups.Include(g => g.Members).ToDictionaryAsync(g => g.Name, cancel);
        foreach (var name in memberships.Select(m => m.Group).Where(n => n.Length > 0).Distinct())
        {
            if (!byName.TryGetValue(name, out var group))
            {
                byName[name] = group = new() { Name = name };
                session.Db.DirectoryGroups.Add(group);
            }

            group.Members.Clear();
            groups++;
        }

        await session.Db.SaveChangesAsync(cancel);
        foreach (var (line, group, member) in memberships)
        {
            var person = known.GetValueOrDefault(member.ToUpperInvariant());
            var subgroup = byName.GetValueOrDefault(member);
            if (group.Length == 0 || (person is null && subgroup is null))
            {
                return new Refusal(
                    "line-malformed",
                    "groups",
                    $"Line {line}: “{member}” is neither the mail address of a person nor a group "
                        + $"of this file. Nothing was taken in."
                );
            }

            if (
                byName[group]
                    .Members.All(m =>
                        m.PersonId != person?.Id || m.SubgroupId != (person is null ? subgroup!.Id : null)
                    )
            )
            {
                byName[group]
                    .Members.Add(new() { PersonId = person?.Id, SubgroupId = person is null ? subgroup!.Id : null });
            }
        }

        return groups;
    }

    /// <summary>
    /// Lines with their number and a way to read a cell by its column; a column that is missing reads as empty.
    /// </summary>
    private static List<(int Line, Func<string, string> Row)> Rows(string? text, string[] needed, out Refusal? wrong)
    {
        wrong = null;
        List<(int, Func<string, string>)> rows = [];
        if (string.IsNullOrWhiteSpace(text))
        {
            return rows;
        }

        wrong = CsvQuoting.Check(text, "csv");
        if (wrong is not null)
        {
            return rows;
        }

        using var csv = new CsvReader(
            new StringReader(text),
            new CsvConfiguration(CultureInfo.InvariantCulture)
            {
                BadDataFound = null,
                MissingFieldFound = null,
                PrepareHeaderForMatch = h => h.Header.Trim().ToLowerInvariant(),
            }
        );
        csv.Read();
        csv.ReadHeader();
        var header = csv.HeaderRecord!.Select(h => h.Trim().ToLowerInvariant()).ToList();
        if (needed.FirstOrDefault(n => !header.Contains(n)) is { } lacking)
        {
            wrong = new(
                "column-missing",
                lacking,
                $"The first line names the columns; “{lacking}” is missing. Nothing was taken in."
            );
            return rows;
        }

        while (csv.Read())
        {
            var cells = csv.Parser.Record!.ToArray();
            rows.Add(
                (
                    csv.Parser.RawRow,
                    name => header.IndexOf(name) is var at && at >= 0 && at < cells.Length ? cells[at].Trim() : ""
                )
            );
        }

        return rows;
    }
}
