using NodaTime;

namespace WideKeel.Core.Matters;

public enum MatterKind
{
    Litigation,
    Investigation,
    Regulator,
    AccessRequest,
}

public enum MatterState
{
    Open,

    /// <summary>Its orders are being released; nothing new is begun.</summary>
    Closing,
    Closed,

    /// <summary>Its own content is gone; the ledger and certificates remain.</summary>
    Deleted,
}

/// <summary>What a member may do within a matter; each may do what those before may.</summary>
public enum MemberPart
{
    Reader,
    Reviewer,
    Lead,
}

public enum OrderState
{
    Draft,
    InForce,
    Released,
}

public enum ReleaseState
{
    Waiting,
    Agreed,
    Declined,
    Undone,
}

/// <summary>How a matter moves from state to state.</summary>
public static class MatterLife
{
    /// <summary>Null when the matter may go there; otherwise why not.</summary>
    /// <param name="ordersInForce">Orders that still keep something.</param>
    /// <param name="delays">Releases whose delay has not passed.</param>
    /// <param name="drafts">Releases that nobody has decided on.</param>
    public static string? MayNot(MatterState from, MatterState to, int ordersInForce, int delays, int drafts) =>
        (from, to) switch
        {
            (MatterState.Open, MatterState.Closing) => null,
            (MatterState.Closing, MatterState.Open) or (MatterState.Closed, MatterState.Open) => null,
            (MatterState.Closing, MatterState.Closed) when drafts > 0 => "A release still waits for its second person.",
            (MatterState.Closing, MatterState.Closed) when ordersInForce > 0 => ordersInForce == 1
                ? "One hold order is still in force; release it first."
                : $"{ordersInForce} hold orders are still in force; release them first.",
            (MatterState.Closing, MatterState.Closed) when delays > 0 =>
                "The delay of a release has not passed yet; until then it can be undone.",
            (MatterState.Closing, MatterState.Closed) => null,
            (MatterState.Closed, MatterState.Deleted) => null,
            (MatterState.Deleted, _) => "It was deleted; only its ledger remains.",
            (_, MatterState.Deleted) => "Only a closed matter can be deleted.",
            (_, MatterState.Closed) => "A matter is closed by way of closing, which releases what it holds.",
            _ => "A matter does not go that way.",
        };
}

/// <summary>When a custodian who has not acknowledged is reminded, and when their manager is told.</summary>
public static class NoticeRules
{
    /// <summary>Days since it was sent.</summary>
    public static int Outstanding(LocalDate sent, LocalDate today) =>
        Math.Max(0, NodaTime.Period.DaysBetween(sent, today));

    /// <param name="every">Days; 0 reminds never.</param>
    /// <param name="reminded">How often already.</param>
    /// <returns>True when another reminder has fallen due; one that was missed is made up for once.</returns>
    public static bool Reminds(LocalDate sent, int every, LocalDate? last, LocalDate today) =>
        every > 0 && NodaTime.Period.DaysBetween(last is { } before && before > sent ? before : sent, today) >= every;

    /// <param name="after">Days; 0 escalates never.</param>
    public static bool Escalates(LocalDate sent, int after, bool done, LocalDate today) =>
        after > 0 && !done && Outstanding(sent, today) >= after;
}

/// <summary>The text of a notice with its fields filled in.</summary>
public static class NoticeText
{
    /// <summary>Names of the fields, as they stand in braces.</summary>
    public static IReadOnlyList<string> Fields { get; } = ["name", "matter", "number", "organisation", "from"];

    /// <summary>Null when every field in the text is known; otherwise the first that is not.</summary>
    public static string? UnknownField(string text)
    {
        for (var at = text.IndexOf('{', StringComparison.Ordinal); at >= 0; at = text.IndexOf('{', at + 1))
        {
            var end = text.IndexOf('}', at);
            if (end > at && !Fields.Contains(text[(at + 1)..end]))
            {
                return text[at..(end + 1)];
            }
        }

        return null;
    }

    /// <param name="values">By name of the field.</param>
    public static string Fill(string text, IReadOnlyDictionary<string, string> values) =>
        Fields.Aggregate(
            text,
            (filled, field) =>
                filled.Replace($"{{{field}}}", values.GetValueOrDefault(field, ""), StringComparison.Ordinal)
        );
}

/// <summary>A prefix and a running number, as documents of an export are numbered: <c>PIER-000123</c>.</summary>
public readonly record struct ControlNumber(string Prefix, long Number)
{
    public const int Digits = 6;
    public const int MaxPrefix = 20;

    public override string ToString() =>
        $"{Prefix}{Number.ToString($"D{Digits}", System.Globalization.CultureInfo.InvariantCulture)}";

    /// <summary>Null when it can stand before a number; otherwise what is wrong.</summary>
    public static Refusal? CheckPrefix(string prefix) =>
        prefix.Length <= MaxPrefix && prefix.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_')
            ? null
            : new("prefix-malformed", "prefix", $"A prefix has letters, digits, - and _; at most {MaxPrefix} of them.");
}
