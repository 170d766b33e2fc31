using System.Globalization;
using NodaTime;

namespace WideKeel.Core.Query;

/// <summary>
/// Whether whatever one condition finds, another finds too, whatever the items are: told by their form alone. Sound, and not
/// complete: where it says no, the wider one may still be wider.
/// </summary>
public static class Cover
{
    /// <param name="wide">What must find all that the other finds.</param>
    public static bool Covers(this Condition wide, Condition narrow) =>
        wide is Condition.Everything
        || Same(wide, narrow)
        || EveryWayCovered(wide, narrow)
        || OneWayCovers(wide, narrow)
        || PartCovers(wide, narrow);

    /// <summary>Of alternatives each must be covered; of what must hold together, one is enough.</summary>
    private static bool EveryWayCovered(Condition wide, Condition narrow) =>
        narrow switch
        {
            Condition.Any { Of.Count: > 0 } any => any.Of.All(wide.Covers),
            Condition.All all => all.Of.Any(wide.Covers),
            _ => false,
        };

    private static bool OneWayCovers(Condition wide, Condition narrow) =>
        wide switch
        {
            Condition.Any any => any.Of.Any(c => c.Covers(narrow)),
            Condition.All { Of.Count: > 0 } all => all.Of.All(c => c.Covers(narrow)),
            _ => false,
        };

    private static bool PartCovers(Condition wide, Condition narrow) =>
        (wide, narrow) switch
        {
            (Condition.Not not, Condition.Not other) => other.Of.Covers(not.Of),
            (Condition.HasWords words, Condition.HasWords other) => CoversWords(words, other),
            (Condition.DateIn dates, Condition.DateIn other) => (dates.Index, dates.Field) == (other.Index, other.Field)
                && (dates.From ?? LocalDate.MinIsoValue) <= (other.From ?? LocalDate.MinIsoValue)
                && (dates.To ?? LocalDate.MaxIsoValue) >= (other.To ?? LocalDate.MaxIsoValue),
            _ => false,
        };

    private static bool CoversWords(Condition.HasWords wide, Condition.HasWords narrow)
    {
        if (wide.Index != narrow.Index || wide.Words.Count == 0 || narrow.Words.Count == 0)
        {
            // A term without a word finds nothing.
            return narrow.Words.Count == 0;
        }

        return (wide.How, narrow.How) switch
        {
            (WordMatch.AnyOf, WordMatch.AnyOf) => narrow.Words.All(n => wide.Words.Any(w => Covers(w, n))),
            (WordMatch.AnyOf, _) => narrow.Words.Any(n => wide.Words.Any(w => Covers(w, n))),
            (WordMatch.AllOf, WordMatch.AllOf or WordMatch.Phrase) => wide.Words.All(w =>
                narrow.Words.Any(n => Covers(w, n))
            ),
            (WordMatch.AllOf, WordMatch.AnyOf) => narrow.Words.All(n => wide.Words.All(w => Covers(w, n))),
            // A phrase covers itself, word by word; longer ones that hold it are left to the person who asks.
            (WordMatch.Phrase, WordMatch.Phrase) => wide.Words.Count == narrow.Words.Count
                && wide.Words.Zip(narrow.Words).All(p => Covers(p.First, p.Second)),
            (WordMatch.Phrase, WordMatch.AllOf) => wide.Words is [var one] && narrow.Words.Any(n => Covers(one, n)),
            (WordMatch.Phrase, WordMatch.AnyOf) => wide.Words is [var only] && narrow.Words.All(n => Covers(only, n)),
            _ => false,
        };
    }

    private static bool Covers(WordPattern wide, WordPattern narrow) =>
        wide == narrow
        || (wide with { AtStart = narrow.AtStart, AtEnd = narrow.AtEnd } == narrow && !wide.AtStart && !wide.AtEnd)
        || (
            wide is { IsPrefix: true, Stemmed: false, AtStart: false, AtEnd: false }
            && narrow is { HasMask: false, Stemmed: false }
            && narrow.Text.StartsWith(wide.Text.AsSpan(0, wide.Text.Length - 1), StringComparison.Ordinal)
        );

    /// <summary>Equal in every part; records compare their lists by reference.</summary>
    private static bool Same(Condition one, Condition other) => Form(one) == Form(other);

    private static string Form(Condition condition) =>
        condition switch
        {
            Condition.All all => $"({string.Join(" & ", all.Of.Select(Form).Order(StringComparer.Ordinal))})",
            Condition.Any any => $"({string.Join(" | ", any.Of.Select(Form).Order(StringComparer.Ordinal))})",
            Condition.Not not => $"!{Form(not.Of)}",
            Condition.HasWords words => $"{words.Index.Name} {words.How} [{string.Join(' ', words.Words)}]",
            Condition.Near near => string.Create(
                CultureInfo.InvariantCulture,
                $"near({Form(near.Left)}, {Form(near.Right)}, {near.Unit}, {near.Ordered}, {string.Join(' ', near.Distances)})"
            ),
            // These hold no lists.
            _ => condition.ToString(),
        };
}
