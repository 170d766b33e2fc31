using System.Globalization;
using System.Text;

namespace WideKeel.Core.People;

/// <summary>One entry of a directory as LDIF writes it.</summary>
/// <param name="Line">The line on which it begins, from 1.</param>
/// <param name="Attributes">By name in lower case, without options; values in their order.</param>
public sealed record LdifEntry(int Line, string Dn, IReadOnlyDictionary<string, IReadOnlyList<string>> Attributes)
{
    /// <summary>The first value of the first attribute that has one; empty where none has.</summary>
    public string First(params string[] names) =>
        names.Select(n => Attributes.GetValueOrDefault(n)?[0]).FirstOrDefault(v => !string.IsNullOrEmpty(v)) ?? "";

    public bool Is(string objectClass) =>
        Attributes.GetValueOrDefault("objectclass")?.Contains(objectClass, StringComparer.OrdinalIgnoreCase) == true;
}

/// <summary>Reads LDIF content (RFC 2849): folded lines, base64, comments. A file of changes is refused.</summary>
public static class Ldif
{
    /// <summary>A directory of 100,000 people is some 60 MB; more is no text that somebody takes in by hand.</summary>
    private const int MostCharacters = 200_000_000;

    private static readonly UTF8Encoding Utf8 = new(false, throwOnInvalidBytes: true);

    public static Outcome<IReadOnlyList<LdifEntry>> Read(string text)
    {
        if (text.Length > MostCharacters)
        {
            return Wrong(1, "the file is longer than 200,000,000 characters");
        }

        List<LdifEntry> entries = [];
        Entry? open = null;
        var first = true;
        foreach (var (number, line) in Unfolded(text).Append((0, "")))
        {
            if (line.Length == 0)
            {
                if (open is not null)
                {
                    entries.Add(open.Made());
                }

                open = null;
                continue;
            }

            var read = Value(number, line);
            if (read.Refused)
            {
                return read.Refusal!;
            }

            var (name, value) = read.Value;
            var isVersion = first && name == "version";
            first = false;
            if (isVersion && value != "1")
            {
                return Wrong(number, $"this is version {value}; RFC 2849 describes version 1");
            }

            if (
                !isVersion
                && (open is null ? Begun(number, name, value, out open) : Added(open, number, name, value)) is { } wrong
            )
            {
                return wrong;
            }
        }

        return entries;
    }

    private static Refusal? Begun(int number, string name, string value, out Entry? entry)
    {
        entry = name == "dn" ? new(number, value) : null;
        return entry is null ? Wrong(number, $"an entry begins with “dn:”, and this line with “{name}:”") : null;
    }

    private static Refusal? Added(Entry entry, int number, string name, string value)
    {
        if (name != "changetype")
        {
            entry.Add(name, value);
            return null;
        }

        return value == "add"
            ? null
            : Wrong(number, $"this is a change ({value}); export the entries themselves instead");
    }

    /// <summary>An entry that is being read.</summary>
    private sealed class Entry(int line, string dn)
    {
        private readonly Dictionary<string, List<string>> attributes = new(StringComparer.Ordinal);

        public void Add(string name, string value) =>
            (attributes.TryGetValue(name, out var values) ? values : attributes[name] = []).Add(value);

        public LdifEntry Made() =>
            new(line, dn, attributes.ToDictionary(a => a.Key, a => (IReadOnlyList<string>)a.Value));
    }

    /// <summary>Lines with their numbers, what is folded put together and comments left out.</summary>
    private static IEnumerable<(int Number, string Line)> Unfolded(string text)
    {
        var (held, at, number) = (new StringBuilder(), 0, 0);
        var begun = false;
        using var reader = new StringReader(text);
        while (reader.ReadLine() is { } line)
        {
            number++;
            if (begun && line.StartsWith(' '))
            {
                held.Append(line.AsSpan(1));
                continue;
            }

            if (begun && !(held.Length > 0 && held[0] == '#'))
            {
                yield return (at, held.ToString());
            }

            held.Clear().Append(line);
            (at, begun) = (number, true);
        }

        if (begun && !(held.Length > 0 && held[0] == '#'))
        {
            yield return (at, held.ToString());
        }
    }

    private static Outcome<(string Name, string Value)> Value(int number, string line)
    {
        var colon = line.IndexOf(':', StringComparison.Ordinal);
        if (colon <= 0)
        {
            return Wrong(number, "a line is a name, a colon and a value; a line that goes on begins with a space");
        }

        var name = line[..colon].Split(';')[0].ToLowerInvariant();
        var rest = line[(colon + 1)..];
        if (rest.StartsWith('<'))
        {
            // A value that stands in another file: a photograph, as a rule.
            return (name, "");
        }

        if (!rest.StartsWith(':'))
        {
            return (name, rest.TrimStart(' '));
        }

        try
        {
            return (name, Utf8.GetString(Convert.FromBase64String(rest[1..].Trim())));
        }
        catch (FormatException)
        {
            return Wrong(number, $"the value of “{name}” is not base64");
        }
        catch (ArgumentException)
        {
            // Pictures and certificates are of no use here.
            return (name, "");
        }
    }

    private static Refusal Wrong(int line, string why) =>
        new(
            "ldif-malformed",
            "ldif",
            string.Create(CultureInfo.InvariantCulture, $"Line {line:N0}: {why}. Nothing was taken in.")
        );
}

/// <summary>People and groups out of LDIF entries, by the object classes of RFC 2798, RFC 4519 and RFC 2307.</summary>
public static class LdifDirectory
{
    /// <summary>
    /// <c>inetOrgPerson</c> and what is derived from <c>person</c> with a mail address are people; <c>groupOfNames</c>,
    /// <c>groupOfUniqueNames</c> and <c>group</c> are groups. Other entries are passed over, and a group's members among
    /// them are named, and so are those that are no entry of the file.
    /// </summary>
    public static Outcome<DirectoryPortion> Of(IReadOnlyList<LdifEntry> entries)
    {
        var byDn = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase);
        List<LdifEntry> people = [.. entries.Where(IsPerson)],
            groups = [.. entries.Where(IsGroup)];
        HashSet<string> ids = new(StringComparer.OrdinalIgnoreCase);
        foreach (var entry in people.Concat(groups))
        {
            var id = IdOf(entry);
            if (!ids.Add(id))
            {
                return Wrong(entry, $"“{id}” is an entry already");
            }

            byDn[Folded(entry.Dn)] = id;
        }

        var others = entries.Select(e => Folded(e.Dn)).ToHashSet(StringComparer.OrdinalIgnoreCase);
        List<OutsideGroup> made = [];
        List<string> passed = [];
        foreach (var group in groups)
        {
            var members = Members(group).ToList();
            passed.AddRange(
                members
                    .Where(m => !byDn.ContainsKey(Folded(m)))
                    .Select(m =>
                        $"“{m}” in {IdOf(group)}: "
                        + (
                            others.Contains(Folded(m))
                                ? "no person with a mail address, and no group."
                                : "no entry of this file."
                        )
                    )
            );

            made.Add(
                new(
                    IdOf(group),
                    group.First("cn", "ou"),
                    byDn.GetValueOrDefault(Folded(group.First("owner", "managedby"))),
                    [.. members.Select(Folded).Where(byDn.ContainsKey).Select(m => byDn[m]).Distinct()]
                )
            );
        }

        return new DirectoryPortion([.. people.Select(p => Person(p, byDn))], made) { PassedOver = passed };
    }

    private static OutsidePerson Person(LdifEntry entry, Dictionary<string, string> byDn) =>
        new(
            IdOf(entry),
            entry.First("displayname", "cn"),
            entry.First("employeetype").ToLowerInvariant() switch
            {
                "guest" or "external" or "contractor" => "guest",
                "service" => "service",
                _ => "person",
            },
            entry.First("departmentnumber", "department", "ou"),
            entry.First("title"),
            byDn.GetValueOrDefault(Folded(entry.First("manager")), "")
        );

    private static bool IsPerson(LdifEntry entry) =>
        (entry.Is("inetOrgPerson") || entry.Is("person") || entry.Is("organizationalPerson") || entry.Is("user"))
        && MailAddress.IsOne(entry.First("mail"));

    private static bool IsGroup(LdifEntry entry) =>
        entry.Is("groupOfNames") || entry.Is("groupOfUniqueNames") || entry.Is("group");

    private static IEnumerable<string> Members(LdifEntry group) =>
        (group.Attributes.GetValueOrDefault("member") ?? [])
            .Concat(group.Attributes.GetValueOrDefault("uniquemember") ?? [])
            // A group of these classes cannot be empty; servers write its own name, or none, as its only member.
            .Where(m => m.Length > 0 && Folded(m) != Folded(group.Dn));

    private static string IdOf(LdifEntry entry) => IsGroup(entry) ? entry.First("cn", "ou") : entry.First("mail");

    /// <summary>A name without the spaces around its commas and equal signs (RFC 4514).</summary>
    private static string Folded(string dn) =>
        string.Join(',', dn.Split(',').Select(part => string.Join('=', part.Split('=').Select(p => p.Trim()))));

    private static Refusal Wrong(LdifEntry entry, string why) =>
        new(
            "ldif-malformed",
            "ldif",
            string.Create(
                CultureInfo.InvariantCulture,
                $"Line {entry.Line:N0}, “{entry.Dn}”: {why}. Nothing was taken in."
            )
        );
}
