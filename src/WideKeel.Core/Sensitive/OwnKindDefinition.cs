using System.Text.RegularExpressions;
using WideKeel.Core.Query;

namespace WideKeel.Core.Sensitive;

/// <summary>A check that a number of one's own can carry.</summary>
public enum Checksum
{
    None,

    /// <summary>ISO/IEC 7812-1, annex B.</summary>
    Luhn,

    /// <summary>ISO/IEC 7064 MOD 97-10.</summary>
    Mod97,

    /// <summary>ISO/IEC 7064 MOD 11-2.</summary>
    Mod11Radix2,

    /// <summary>ISO/IEC 7064 MOD 11,10.</summary>
    Mod11Hybrid10,

    Verhoeff,
}

/// <summary>A kind as a person writes it: pattern, checksum, words nearby.</summary>
/// <param name="Name">Lower-case letters and digits with hyphens, as queries name it.</param>
/// <param name="Pattern">A regular expression; one that cannot need more than linear time.</param>
public sealed partial record OwnKindDefinition(
    string Name,
    string Title,
    string Pattern,
    Checksum Checksum,
    IReadOnlyList<string> Nearby
)
{
    private const int MostCharacters = 500;

    /// <summary>The kind, or what is wrong with its first wrong part.</summary>
    public Outcome<SensitiveKind> Check()
    {
        if (CheckWords() is { } wrong)
        {
            return wrong;
        }

        try
        {
            // Without backtracking, so that no pattern can hold up a scan.
            var pattern = new Regex(Pattern, RegexOptions.NonBacktracking | RegexOptions.CultureInvariant);
            if (pattern.IsMatch(""))
            {
                return new Refusal(
                    "kind-pattern",
                    "pattern",
                    "This pattern fits nothing at all, so it would be found everywhere."
                );
            }

            var nearby = Nearby.Select(Words.Folded).Where(n => n.Length > 0).ToArray();
            return new SensitiveKind(Name, Title, pattern, (_, compact) => Judge(compact), nearby);
        }
        catch (RegexParseException e)
        {
            return new Refusal(
                "kind-pattern",
                "pattern",
                $"The pattern is no regular expression: at character {e.Offset + 1}, {Reason(e.Error)}."
            )
            {
                Span = new(e.Offset, 0),
            };
        }
        catch (NotSupportedException)
        {
            return new Refusal(
                "kind-pattern",
                "pattern",
                "The pattern looks back or ahead, or refers to what it found before; that could take for ever and is not taken here."
            );
        }
    }

    private Refusal? CheckWords()
    {
        if (!AName().IsMatch(Name) || Name.Length > 40)
        {
            return new Refusal(
                "kind-name",
                "name",
                "A kind's name has 2 to 40 lower-case letters, digits and hyphens, and begins with a letter."
            );
        }

        if (SensitiveKinds.BuiltIn.Any(k => k.Name == Name))
        {
            return Refusal.Conflict(
                "kind-name-taken",
                "name",
                $"{Name} is one of the kinds that the product knows by itself; choose another name."
            );
        }

        if (string.IsNullOrWhiteSpace(Title) || Title.Length > 100)
        {
            return new Refusal("kind-title", "title", "A kind needs a title of at most 100 characters.");
        }

        if (string.IsNullOrWhiteSpace(Pattern) || Pattern.Length > MostCharacters)
        {
            return new Refusal("kind-pattern", "pattern", $"A pattern has 1 to {MostCharacters} characters.");
        }

        if (Nearby.Count > 50 || Nearby.Any(n => n.Length > 100))
        {
            return new Refusal("kind-nearby", "nearby", "At most 50 words nearby, each of at most 100 characters.");
        }

        return null;
    }

    private Proof Judge(string compact)
    {
        var digits = compact.Length > 0 && compact.All(char.IsAsciiDigit);
        bool? holds = Checksum switch
        {
            Checksum.None => null,
            Checksum.Luhn => digits && Checksums.Luhn(compact),
            Checksum.Mod97 => compact.Length > 2 && Checksums.Mod97(compact),
            Checksum.Mod11Radix2 => IsDigitsAndX(compact) && Checksums.Mod11Radix2(compact),
            Checksum.Mod11Hybrid10 => digits && Checksums.Mod11Hybrid10(compact),
            Checksum.Verhoeff => digits && Checksums.Verhoeff(compact),
            _ => throw new InvalidOperationException($"No such checksum: {Checksum}."),
        };
        return holds is null ? Proof.Weak
            : holds.Value ? Proof.Strong
            : Proof.None;
    }

    /// <summary>Digits, of which the last may be X for ten.</summary>
    private static bool IsDigitsAndX(string compact) =>
        compact.Length > 1
        && compact.AsSpan(0, compact.Length - 1).IndexOfAnyExceptInRange('0', '9') < 0
        && (char.IsAsciiDigit(compact[^1]) || compact[^1] == 'X');

    private static string Reason(RegexParseError error) =>
        error switch
        {
            RegexParseError.InsufficientClosingParentheses => "a ) is missing",
            RegexParseError.InsufficientOpeningParentheses => "a ) closes nothing",
            RegexParseError.UnterminatedBracket => "a ] is missing",
            RegexParseError.QuantifierAfterNothing => "there is nothing to repeat",
            RegexParseError.ReversedCharacterRange or RegexParseError.ReversedQuantifierRange =>
                "a range runs backwards",
            RegexParseError.UnescapedEndingBackslash => "a backslash stands at the end",
            _ => "something is not understood",
        };

    [GeneratedRegex("^[a-z][a-z0-9-]*[a-z0-9]$")]
    private static partial Regex AName();
}
