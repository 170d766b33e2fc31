using System.Globalization;
using CsvHelper;
using CsvHelper.Configuration;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>
/// Reads the tables of an import. A line that cannot be read refuses the whole, by its number. A column that is missing
/// leaves what is known as it is.
/// </summary>
/// <param name="known">All that the directory holds, whatever its source.</param>
/// <param name="own">What the import's own source holds.</param>
/// <param name="today">Who has left by this day is gone.</param>
internal sealed class DirectoryTables(DirectoryState known, DirectoryState own, LocalDate today)
{
    private const int LongestName = 200;

    private readonly Dictionary<string, string> people = known.People.ToDictionary(
        p => p.Id,
        p => p.Id,
        StringComparer.OrdinalIgnoreCase
    );
    private readonly HashSet<string> groups = known.Groups.Select(g => g.Id).ToHashSet(StringComparer.Ordinal);
    private readonly HashSet<string> places = known.Resources.Select(r => r.Id).ToHashSet(StringComparer.Ordinal);
    private Refusal? wrong;

    /// <summary>What the tables, or the LDIF, of an import bring.</summary>
    public Outcome<DirectoryPortion> Read(DirectoryImport import)
    {
        var portion = new DirectoryPortion(Whole: import.Whole);
        if (import.Ldif is null)
        {
            return Tables(import, portion);
        }

        if (import is not { People: null, Groups: null })
        {
            return new Refusal("two-forms", "ldif", "Send people and groups as tables or as LDIF, not as both.");
        }

        var entries = Ldif.Read(import.Ldif);
        var read = entries.Refused ? entries.Refusal! : LdifDirectory.Of(entries.Value);
        return read.Refused ? read : Tables(import, Known(read.Value, portion));
    }

    /// <summary>What LDIF says, over what is known: it has no word for sponsors, suspensions and second factors.</summary>
    private DirectoryPortion Known(DirectoryPortion read, DirectoryPortion portion)
    {
        var before = own.People.ToDictionary(p => p.Id, StringComparer.OrdinalIgnoreCase);
        return portion with
        {
            PassedOver = read.PassedOver,
            People =
            [
                .. read.People!.Select(p =>
                    before.TryGetValue(p.Id, out var old)
                        ? old with
                        {
                            Name = p.Name,
                            Kind = p.Kind,
                            Unit = p.Unit,
                            Title = p.Title,
                            Manager = p.Manager,
                            Left = LeftOf(old, portion.Whole),
                        }
                        : p
                ),
            ],
            Groups =
            [
                .. read.Groups!.Select(g =>
                    g with
                    {
                        Members = [.. g.Members.Select(m => people.GetValueOrDefault(m, m))],
                    }
                ),
            ],
        };
    }

    /// <summary>Since when somebody is gone of whom a file says no date: whoever is named in a whole list is back.</summary>
    private string? LeftOf(OutsidePerson known, bool whole) =>
        whole && string.CompareOrdinal(known.Left, Iso(today)) <= 0 ? null : known.Left;

    private Outcome<DirectoryPortion> Tables(DirectoryImport import, DirectoryPortion portion)
    {
        Note(portion);
        if (import.People is { } people)
        {
            portion = portion with { People = People(people, portion.Whole) };
            Note(portion);
        }

        if (import.Groups is { } groups)
        {
            portion = portion with { Groups = Groups(groups) };
        }

        if (import.Places is not null || import.Links is not null)
        {
            portion = portion with { Resources = Places(import.Places, import.Links) };
            Note(portion);
        }

        if (import.Grants is { } grants)
        {
            portion = portion with { Grants = Grants(grants) };
        }

        if (import.Consents is { } consents)
        {
            portion = portion with { Applications = Applications(consents) };
        }

        return wrong is null ? portion : wrong;
    }

    /// <summary>What is read so far may be named by what is read next.</summary>
    private void Note(DirectoryPortion portion)
    {
        foreach (var person in portion.People ?? [])
        {
            people.TryAdd(person.Id, person.Id);
        }

        groups.UnionWith((portion.Groups ?? []).Select(g => g.Id));
        places.UnionWith((portion.Resources ?? []).Select(r => r.Id));
    }

    private List<OutsidePerson> People(string text, bool whole)
    {
        var before = own.People.ToDictionary(p => p.Id, StringComparer.OrdinalIgnoreCase);
        Dictionary<string, OutsidePerson> read = new(StringComparer.OrdinalIgnoreCase);
        foreach (var row in Rows(text, "people", "name", "mail"))
        {
            var kind = row["kind"]?.ToLowerInvariant();
            var (joins, leaves) = (row.Day("joins"), row.Day("leaves"));
            if (
                row["name"]!.Length is 0 or > LongestName
                || (!Core.People.MailAddress.IsOne(row["mail"]!) && kind != "service")
                || row["mail"]!.Length is 0 or > LongestName
                || joins is { Known: true, Wrong: true }
                || leaves is { Known: true, Wrong: true }
            )
            {
                Wrong(
                    row,
                    "a person needs a name and a mail address; joins and leaves are empty or a date such as 2026-09-30"
                );
                break;
            }

            if (kind is not (null or "" or "person" or "guest" or "service"))
            {
                Wrong(row, $"“{kind}” is no kind; person, guest and service are");
                break;
            }

            var person = PersonOf(row, before.GetValueOrDefault(row["mail"]!), whole);
            read[person.Id] = person;
        }

        return [.. read.Values];
    }

    /// <summary>What a line says, over what is known.</summary>
    private OutsidePerson PersonOf(Row row, OutsidePerson? known, bool whole)
    {
        var old = known ?? new OutsidePerson(row["mail"]!, row["name"]!);
        var (joins, leaves) = (row.Day("joins"), row.Day("leaves"));
        return old with
        {
            Name = row["name"]!,
            Kind = NullIfEmpty(row["kind"]?.ToLowerInvariant()) ?? old.Kind,
            Unit = row["unit"] ?? old.Unit,
            Title = row["title"] ?? old.Title,
            Manager = row["manager"] ?? old.Manager,
            Joined = joins.Known ? Iso(joins.Day) : old.Joined,
            Left = leaves.Known ? Iso(leaves.Day?.PlusDays(1)) : LeftOf(old, whole),
            Sponsor = row["sponsor"] is { } sponsor ? NullIfEmpty(sponsor) : old.Sponsor,
            Suspended = row.Flag("suspended") ?? old.Suspended,
            SecondFactor = row.Flag("second factor") ?? old.SecondFactor,
        };
    }

    private List<OutsideGroup> Groups(string text)
    {
        var before = own.Groups.ToDictionary(g => g.Id, StringComparer.Ordinal);
        var rows = Rows(text, "groups", "group", "member");
        groups.UnionWith(rows.Select(r => r["group"]!).Where(g => g.Length > 0));
        Dictionary<string, (string? Owner, List<string> Members)> read = new(StringComparer.Ordinal);
        foreach (var row in rows)
        {
            var (group, member) = (row["group"]!, row["member"]!);
            var id = people.GetValueOrDefault(member) ?? (groups.Contains(member) ? member : null);
            if (group.Length is 0 or > LongestName || id is null)
            {
                Wrong(row, $"“{member}” is neither the mail address of a person nor a group of this file");
                break;
            }

            var owner = row["owner"] ?? before.GetValueOrDefault(group)?.Owner;
            var known = read.GetValueOrDefault(group, (owner, []));
            read[group] = (NullIfEmpty(row["owner"]) ?? known.Owner, known.Members);
            known.Members.Add(id);
        }

        return [.. read.Select(g => new OutsideGroup(g.Key, g.Key, g.Value.Owner, [.. g.Value.Members.Distinct()]))];
    }

    private List<OutsideResource> Places(string? text, string? links)
    {
        var before = own.Resources.ToDictionary(r => r.Id, StringComparer.Ordinal);
        Dictionary<string, OutsideResource> read = new(StringComparer.Ordinal);
        foreach (var row in text is null ? [] : Rows(text, "places", "place", "name"))
        {
            if (row["place"]!.Length is 0 or > LongestName || row["name"]!.Length is 0 or > LongestName)
            {
                Wrong(row, "a place needs an id and a name");
                break;
            }

            read[row["place"]!] = PlaceOf(row, before.GetValueOrDefault(row["place"]!));
        }

        foreach (var of in (links is null ? [] : Rows(links, "links", "place", "to", "role")).GroupBy(r => r["place"]!))
        {
            if ((read.GetValueOrDefault(of.Key) ?? before.GetValueOrDefault(of.Key)) is not { } place)
            {
                Wrong(of.First(), $"there is no place “{of.Key}” in this source");
                break;
            }

            read[of.Key] = place with { Links = [.. of.Select(Link)] };
        }

        return [.. read.Values];
    }

    /// <summary>What a line says, over what is known.</summary>
    private static OutsideResource PlaceOf(Row row, OutsideResource? known)
    {
        var old =
            known
            ?? new OutsideResource(row["place"]!, row["name"]!, "share", null, true, null, false, false, null, []);
        return old with
        {
            Name = row["name"]!,
            Kind = NullIfEmpty(row["kind"]) ?? old.Kind,
            Parent = row["parent"] is { } parent ? NullIfEmpty(parent) : old.Parent,
            Inherits = row.Flag("inherits") ?? old.Inherits,
            Owner = row["owner"] is { } owner ? NullIfEmpty(owner) : old.Owner,
            OutsideAllowed = row.Flag("outsiders") ?? old.OutsideAllowed,
            Sensitive = row.Flag("sensitive") ?? old.Sensitive,
            Region = row["region"] is { } region ? NullIfEmpty(region) : old.Region,
        };
    }

    private OutsideLink Link(Row row)
    {
        var ends = row.Day("ends");
        if (row["to"] is not ("anyone" or "organisation") || row["role"]!.Length == 0 || ends.Wrong)
        {
            Wrong(row, "a link is to anyone or to organisation, has a role, and ends on a date or not at all");
        }

        return new(row["to"]!, row["role"]!, row["by"] ?? "", Iso(ends.Day));
    }

    private List<OutsideGrant> Grants(string text)
    {
        List<OutsideGrant> read = [];
        foreach (var row in Rows(text, "grants", "to", "place", "role"))
        {
            var to = people.GetValueOrDefault(row["to"]!) ?? (groups.Contains(row["to"]!) ? row["to"] : null);
            if (to is null || !places.Contains(row["place"]!) || row["role"]!.Length is 0 or > LongestName)
            {
                Wrong(
                    row,
                    to is null ? $"“{row["to"]}” is neither the mail address of a person nor a group"
                        : row["role"]!.Length is 0 or > LongestName ? "a grant needs a role"
                        : $"there is no place “{row["place"]}”"
                );
                break;
            }

            read.Add(new(to, row["place"]!, row["role"]!));
        }

        return read;
    }

    private List<OutsideApplication> Applications(string text)
    {
        var before = own.Applications.ToDictionary(a => a.Id, StringComparer.Ordinal);
        List<OutsideApplication> read = [];
        foreach (var of in Rows(text, "consents", "application", "by", "scopes").GroupBy(r => r["application"]!))
        {
            if (
                of.FirstOrDefault(r =>
                    of.Key.Length is 0 or > LongestName || r["by"]!.Length == 0 || r.Day("used").Wrong
                ) is
                { } malformed
            )
            {
                Wrong(malformed, "a consent needs an application and whoever gave it; used is empty or a date");
                break;
            }

            var old = before.GetValueOrDefault(of.Key);
            read.Add(
                new(
                    of.Key,
                    NullIfEmpty(of.First()["name"]) ?? old?.Name ?? of.Key,
                    of.First()["publisher"] ?? old?.Publisher ?? "",
                    [
                        .. of.Select(r => new OutsideConsent(
                            people.GetValueOrDefault(r["by"]!) ?? r["by"]!,
                            r["scopes"]!.Split(' ', StringSplitOptions.RemoveEmptyEntries),
                            Iso(r.Day("used").Day)
                        )),
                    ]
                )
            );
        }

        return read;
    }

    private void Wrong(Row row, string why) =>
        wrong ??= new(
            "line-malformed",
            row.Table,
            string.Create(CultureInfo.InvariantCulture, $"Line {row.Line:N0}: {why}. Nothing was taken in.")
        );

    private List<Row> Rows(string text, string table, params string[] needed)
    {
        wrong ??= CsvQuoting.Check(text, table);
        if (wrong is not null || string.IsNullOrWhiteSpace(text))
        {
            return [];
        }

        using var csv = new CsvReader(
            new StringReader(text),
            new CsvConfiguration(CultureInfo.InvariantCulture) { BadDataFound = null, MissingFieldFound = null }
        );
        csv.Read();
        csv.ReadHeader();
        List<string> header = [.. csv.HeaderRecord!.Select(h => h.Trim().ToLowerInvariant())];
        if (needed.FirstOrDefault(n => !header.Contains(n)) is { } lacking)
        {
            wrong = new(
                "column-missing",
                lacking,
                $"The first line of {table} names the columns; “{lacking}” is missing. Nothing was taken in."
            );
            return [];
        }

        List<Row> rows = [];
        while (csv.Read())
        {
            rows.Add(new(table, csv.Parser.RawRow, header, [.. csv.Parser.Record!.Select(c => c.Trim())]));
        }

        return rows;
    }

    private static string? Iso(LocalDate? day) => day is { } known ? LocalDatePattern.Iso.Format(known) : null;

    private static string? NullIfEmpty(string? text) => string.IsNullOrEmpty(text) ? null : text;

    /// <summary>One line of a table.</summary>
    private sealed record Row(string Table, int Line, List<string> Header, List<string> Cells)
    {
        /// <summary>A cell by its column: null where the table has no such column, empty where the line ends before it.</summary>
        public string? this[string column] =>
            Header.IndexOf(column) is var at && at < 0 ? null
            : at < Cells.Count ? Cells[at]
            : "";

        public bool? Flag(string column) =>
            this[column]?.ToLowerInvariant() switch
            {
                "yes" or "true" or "1" => true,
                "no" or "false" or "0" => false,
                _ => null,
            };

        /// <summary>A date: whether the column is there, the day where the cell has one, whether it is none.</summary>
        public (bool Known, LocalDate? Day, bool Wrong) Day(string column)
        {
            if (this[column] is not { } cell)
            {
                return (false, null, false);
            }

            if (cell.Length == 0)
            {
                return (true, null, false);
            }

            var parsed = LocalDatePattern.Iso.Parse(cell);
            return (true, parsed.Success ? parsed.Value : null, !parsed.Success);
        }
    }
}
