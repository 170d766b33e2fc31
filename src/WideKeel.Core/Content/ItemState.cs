using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Time;

namespace WideKeel.Core.Content;

/// <summary>Where an item stands. The words are those of the schedule.</summary>
public enum ItemState
{
    NoRule,
    InTerm,
    AwaitingEvent,
    Due,
    OnDocket,

    /// <summary>A hold forbids its disposal, whatever it would otherwise be.</summary>
    Held,
    Permanent,
    Destroyed,

    /// <summary>Its content lies with an archive; here a stub is left.</summary>
    HandedOver,
}

public static class ItemStates
{
    private static readonly Dictionary<ItemState, string> Words = Enum.GetValues<ItemState>()
        .ToDictionary(s => s, s => JsonNamingPolicy.KebabCaseLower.ConvertName(s.ToString()));

    /// <summary>The state as queries and files name it: <c>in-term</c>.</summary>
    public static string Word(this ItemState state) => Words[state];
}

/// <summary>How strongly an item is protected, from weakest to strongest.</summary>
public enum Grade
{
    None,

    /// <summary>
    /// Whoever changes or deletes it changes or deletes only what they see; a copy goes to safekeeping.
    /// </summary>
    Kept,

    /// <summary>Its content stays as it is, and it is not deleted.</summary>
    Declared,

    /// <summary>Written once, read many times: nothing of it changes before its term is over, for anyone.</summary>
    Worm,
}

public static class PlausibleDate
{
    /// <summary>The first day that a clock can start from.</summary>
    public static LocalDate Earliest { get; } = new(1900, 1, 1);

    /// <summary>The last.</summary>
    public static LocalDate Latest(LocalDate today) => today.PlusYears(50);

    /// <summary>
    /// A date before 1900 or more than 50 years ahead is not a date to count from: it is listed to be mended, never
    /// guessed.
    /// </summary>
    public static bool Holds(LocalDate date, LocalDate today) => date >= Earliest && date <= Latest(today);
}

/// <summary>
/// One column for everything that a keep-until can be, ordered as the rules order it: nothing &lt; dates &lt; awaiting
/// event &lt; permanent.
/// </summary>
public readonly record struct KeepUntil : IComparable<KeepUntil>
{
    private const int AwaitingCode = int.MaxValue - 1;
    private const int PermanentCode = int.MaxValue;

    private KeepUntil(int? code) => Code = code;

    /// <summary>Day number, one of two large codes, or null; the form in which a column holds it.</summary>
    public int? Code { get; }

    public static KeepUntil Nothing => default;

    public static KeepUntil AwaitingEvent { get; } = new(AwaitingCode);

    public static KeepUntil Permanent { get; } = new(PermanentCode);

    public static KeepUntil On(LocalDate date) => new(date.ToDayNumber());

    public static KeepUntil FromCode(int? code) => new(code);

    public bool IsNothing => Code is null;

    public bool IsAwaiting => Code == AwaitingCode;

    public bool IsPermanent => Code == PermanentCode;

    /// <summary>The last day through which the item is kept, when there is one.</summary>
    public LocalDate? Date => Code is { } code and < AwaitingCode ? DayNumber.ToDate(code) : null;

    /// <summary>A date, <c>permanent</c>, <c>awaiting-event</c>, or null for nothing.</summary>
    public string? Text =>
        IsNothing ? null
        : IsPermanent ? "permanent"
        : IsAwaiting ? "awaiting-event"
        : LocalDatePattern.Iso.Format(Date!.Value);

    public int CompareTo(KeepUntil other) => Nullable.Compare(Code, other.Code);

    public static bool operator <(KeepUntil a, KeepUntil b) => a.CompareTo(b) < 0;

    public static bool operator >(KeepUntil a, KeepUntil b) => a.CompareTo(b) > 0;

    public static bool operator <=(KeepUntil a, KeepUntil b) => a.CompareTo(b) <= 0;

    public static bool operator >=(KeepUntil a, KeepUntil b) => a.CompareTo(b) >= 0;

    public static KeepUntil Latest(KeepUntil a, KeepUntil b) => a >= b ? a : b;
}
