using NodaTime;
using NodaTime.Text;
using WideKeel.Core.People;

namespace WideKeel.Core.Readiness;

/// <param name="Number">From 1, rising.</param>
/// <param name="InForceFrom">The first day on which it binds.</param>
/// <param name="AsksAnew">Those who acknowledged an earlier version are to acknowledge this one too.</param>
public sealed record PolicyVersion(int Number, bool Approved, LocalDate InForceFrom, bool AsksAnew);

/// <summary>How somebody stands to the policy that binds them.</summary>
public enum Acknowledgement
{
    /// <summary>Nobody has asked them yet.</summary>
    NotAsked,

    /// <summary>They were asked and have time.</summary>
    Asked,

    /// <summary>Their time is over.</summary>
    Overdue,

    /// <summary>They acknowledged the version that binds them, or one after it.</summary>
    Given,
}

/// <param name="Number">Of the version that they were asked about.</param>
public sealed record PolicyAsked(int Number, LocalDate AskedOn, bool Acknowledged);

/// <summary>Which text of a policy binds on a day, and who is still to say that they know it.</summary>
public static class Policies
{
    /// <summary>The version in force: of those approved and begun, the one of the highest number.</summary>
    public static PolicyVersion? InForce(IEnumerable<PolicyVersion> versions, LocalDate day) =>
        versions.Where(v => v.Approved && v.InForceFrom <= day).MaxBy(v => v.Number);

    /// <summary>
    /// The lowest number whose acknowledgement is enough on a day: of the versions up to the one in force, the last that
    /// asks anew. The first always does. Null where nothing is in force.
    /// </summary>
    public static int? MustKnow(IReadOnlyCollection<PolicyVersion> versions, LocalDate day)
    {
        if (InForce(versions, day) is not { } now)
        {
            return null;
        }

        var known = versions.Where(v => v.Approved && v.Number <= now.Number).ToList();
        return known.Where(v => v.AsksAnew).Select(v => v.Number).DefaultIfEmpty(known.Min(v => v.Number)).Max();
    }

    /// <summary>How somebody in scope stands.</summary>
    /// <param name="mustKnow">As <see cref="MustKnow"/> says.</param>
    /// <param name="days">In which somebody who is asked is to acknowledge.</param>
    public static Acknowledgement StateOf(int mustKnow, IEnumerable<PolicyAsked> asked, int days, LocalDate day)
    {
        var concerned = asked.Where(a => a.Number >= mustKnow).ToList();
        return concerned.Exists(a => a.Acknowledged) ? Acknowledgement.Given
            : concerned.Count == 0 ? Acknowledgement.NotAsked
            : concerned.Min(a => a.AskedOn).PlusDays(days) < day ? Acknowledgement.Overdue
            : Acknowledgement.Asked;
    }

    /// <summary>
    /// The people whom a policy binds: those of its units and those within its groups, through any chain of groups;
    /// everybody where it names neither. Guests, service accounts, the suspended and those who have left are bound by
    /// nothing.
    /// </summary>
    public static IReadOnlyList<OutsidePerson> InScope(
        DirectoryState directory,
        IReadOnlyCollection<string> units,
        IReadOnlyCollection<string> groups,
        LocalDate day
    )
    {
        var members = directory.Groups.ToDictionary(g => g.Id, g => g.Members, StringComparer.Ordinal);
        HashSet<string> within = new(StringComparer.OrdinalIgnoreCase);
        Stack<string> open = new(groups);
        while (open.TryPop(out var id))
        {
            if (within.Add(id))
            {
                foreach (var member in members.GetValueOrDefault(id) ?? [])
                {
                    open.Push(member);
                }
            }
        }

        var today = LocalDatePattern.Iso.Format(day);
        return
        [
            .. directory.People.Where(p =>
                p is { Kind: "person", Suspended: false }
                && !(string.CompareOrdinal(p.Left ?? "9999-12-31", today) <= 0)
                && (
                    (units.Count == 0 && groups.Count == 0)
                    || units.Contains(p.Unit, StringComparer.OrdinalIgnoreCase)
                    || within.Contains(p.Id)
                )
            ),
        ];
    }
}
