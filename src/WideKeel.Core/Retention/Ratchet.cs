using WideKeel.Core.Content;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>Whether a rule that may only be tightened would be loosened.</summary>
public static class Ratchet
{
    /// <summary>
    /// What a change would loosen, as the end of a sentence; null when it provably loosens nothing: then K of every
    /// item, whatever its dates, is no earlier than before. A change of which that cannot be shown (another trigger, a
    /// fiscal for a calendar year) counts as loosening.
    /// </summary>
    public static string? Loosens(SeriesRule before, SeriesRule after)
    {
        if (after.Grade < before.Grade)
        {
            return "its grade is lowered";
        }

        if (before.AtEnd != EndAction.Destroy && after.AtEnd == EndAction.Destroy)
        {
            return "items would be destroyed without sign-off";
        }

        if (after.Permanent)
        {
            return null;
        }

        if (before.AtEnd != EndAction.Nothing && after.AtEnd == EndAction.Nothing)
        {
            return "its grade would end with its term, and anybody could delete what is signed for today";
        }

        if (before.Permanent)
        {
            return "what is kept permanently would be kept for a time";
        }

        return KeepsAtLeastAsLong(before, after) ? null : "some items could be kept for a shorter time";
    }

    // K_after ≥ K_before for all dates. Each side is a maximum (later of) or a minimum (earlier of) of its clauses.
    internal static bool KeepsAtLeastAsLong(SeriesRule before, SeriesRule after) =>
        (before.Join, after.Join) switch
        {
            (ClauseJoin.Later, ClauseJoin.Later) => before.Clauses.All(b => after.Clauses.Any(a => AtLeast(a, b))),
            (ClauseJoin.Earlier, ClauseJoin.Earlier) => after.Clauses.All(a => before.Clauses.Any(b => AtLeast(a, b))),
            (ClauseJoin.Earlier, ClauseJoin.Later) => after.Clauses.Any(a => before.Clauses.Any(b => AtLeast(a, b))),
            _ => after.Clauses.All(a => before.Clauses.All(b => AtLeast(a, b))),
        };

    private static bool AtLeast(Clause a, Clause b) =>
        a.Trigger == b.Trigger && AtLeast(a.Cutoff, b.Cutoff) && AtLeast(a.Period, b.Period);

    internal static bool AtLeast(Cutoff a, Cutoff b) =>
        a == b || b == Cutoff.None || (a is not Cutoff.Fiscal && b is not Cutoff.Fiscal && a > b);

    internal static bool AtLeast(Period a, Period b)
    {
        var (aMonths, aDays, bMonths, bDays) = (
            (12 * a.Years) + a.Months,
            (7 * a.Weeks) + a.Days,
            (12 * b.Years) + b.Months,
            (7 * b.Weeks) + b.Days
        );
        // A month has 28 to 31 days, so days make up for a missing month only at 31 each, and a month makes up for 28
        // missing days.
        return aMonths >= bMonths
            ? aDays + (28 * (aMonths - bMonths)) >= bDays
            : aDays >= bDays + (31 * (bMonths - aMonths));
    }
}
