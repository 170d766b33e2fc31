using System.Text.Json.Serialization;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Query;

namespace WideKeel.Core.Matters;

/// <summary>
/// What a sweep looks through, or a hold order keeps: the content of some containers and of some custodians, as far as
/// a query finds it and its dates fall within a range. With neither containers nor custodians it is all content of the
/// matter's unit; where it names channels and nothing else, it is their events alone.
/// </summary>
/// <param name="Containers">Ids.</param>
/// <param name="Custodians">Ids of the matter's custodians.</param>
/// <param name="Query">CQL; null finds everything.</param>
/// <param name="From">First day; null is open. An item is dated by the span from its creation to its last change, which
/// must touch the range.</param>
/// <param name="To">Last day.</param>
public sealed record HoldDefinition(
    IReadOnlyList<long> Containers,
    IReadOnlyList<long> Custodians,
    string? Query,
    LocalDate? From,
    LocalDate? To
)
{
    /// <summary>Names of channels whose events are kept too, of the days of the range; null for none.</summary>
    public IReadOnlyList<string>? Channels { get; init; }

    /// <summary>Ids of the items among which a sweep looks; null looks among all. An order takes none: items are pinned
    /// to it.</summary>
    public IReadOnlyList<long>? Items { get; init; }

    public const int MostItems = 100_000;

    /// <summary>It names channels and nothing else: it keeps events, and no item.</summary>
    [JsonIgnore]
    public bool IsOfEventsAlone =>
        Channels is { Count: > 0 }
        && Containers.Count == 0
        && Custodians.Count == 0
        && Items is null
        && string.IsNullOrWhiteSpace(Query);

    /// <summary>It reaches all items of the matter's unit, as far as its query and its dates find them.</summary>
    [JsonIgnore]
    public bool ReachesTheUnit => Containers.Count == 0 && Custodians.Count == 0 && !IsOfEventsAlone;

    public static HoldDefinition Everything { get; } = new([], [], null, null, null);

    /// <summary>The compiled query (null where there is none), or the first thing that is wrong.</summary>
    public Outcome<CompiledQuery?> Check(LocalDate today)
    {
        if (Containers is null || Custodians is null)
        {
            return new Refusal(
                "reach-missing",
                "definition",
                "The containers or the custodians are missing; leave the list empty instead."
            );
        }

        if (Items is { Count: 0 or > MostItems })
        {
            return new Refusal(
                "items-number",
                "items",
                $"A list of ids has 1 to {MostItems.ToString("N0", System.Globalization.CultureInfo.InvariantCulture)} of them."
            );
        }

        if (From > To)
        {
            return new Refusal("dates-reversed", "to", "The last day lies before the first.");
        }

        if (string.IsNullOrWhiteSpace(Query))
        {
            return (CompiledQuery?)null;
        }

        var compiled = QueryCompiler.Compile(PlainWords.ToQuery(Query), today);
        return compiled.Refusal is { } mistake ? mistake with { Field = "query" }
            : compiled.Value.Condition.LooksAt(QueryIndex.State) || compiled.Value.Condition.LooksAt(QueryIndex.Grade)
                ? new Refusal(
                    "query-circular",
                    "query",
                    "State and grade change with holds themselves; ask for something that stays."
                )
            : (CompiledQuery?)compiled.Value;
    }

    /// <summary>
    /// What is odd about the days, in sentences; null where nothing is. They are taken all the same, because a wide range
    /// loses nothing; but who typed 2099 for 2009 would look for nothing, or for too much.
    /// </summary>
    public string? RemarkOnDates(LocalDate today)
    {
        List<string> odd = [];
        if (From < PlausibleDate.Earliest)
        {
            odd.Add($"The first day lies in {From.Value.Year}, before anything can be dated.");
        }

        if (From > today)
        {
            odd.Add($"The first day lies in {From.Value.Year}, after today: it finds nothing that exists now.");
        }

        if (To < PlausibleDate.Earliest)
        {
            odd.Add($"The last day lies in {To.Value.Year}, before anything can be dated: it finds nothing.");
        }

        if (To > PlausibleDate.Latest(today))
        {
            odd.Add($"The last day lies in {To.Value.Year}, more than 50 years ahead; leave it out for no end.");
        }

        return odd.Count == 0 ? null : string.Join(' ', odd);
    }

    /// <summary>Whether it keeps the events that one channel has of a day.</summary>
    public bool KeepsEvents(string channel, LocalDate day) =>
        Channels?.Contains(channel) == true && !(day < From) && !(day > To);

    /// <summary>Whether there are events that it keeps and another definition would not.</summary>
    public bool KeepsEventsBeyond(HoldDefinition other) =>
        Channels is { Count: > 0 }
        && (
            Channels.Except(other.Channels ?? []).Any()
            || (From ?? LocalDate.MinIsoValue) < (other.From ?? LocalDate.MinIsoValue)
            || (To ?? LocalDate.MaxIsoValue) > (other.To ?? LocalDate.MaxIsoValue)
        );

    /// <summary>
    /// Whether it keeps whatever another keeps, today and whatever arrives: as wide in places, in words, in dates and in
    /// channels. Told by their form alone; where it says no, the difference leaves by a release.
    /// </summary>
    /// <param name="today">The day that relative dates of the queries are read on.</param>
    public bool Covers(HoldDefinition other, LocalDate today) =>
        CoversPlaces(other)
        && (From ?? LocalDate.MinIsoValue) <= (other.From ?? LocalDate.MinIsoValue)
        && (To ?? LocalDate.MaxIsoValue) >= (other.To ?? LocalDate.MaxIsoValue)
        && !other.KeepsEventsBeyond(this)
        && (other.IsOfEventsAlone || CoversWords(other, today));

    private bool CoversPlaces(HoldDefinition other) =>
        other.IsOfEventsAlone
        || ReachesTheUnit
        || (
            (other.Containers.Count > 0 || other.Custodians.Count > 0)
            && !other.Containers.Except(Containers).Any()
            && !other.Custodians.Except(Custodians).Any()
        );

    private bool CoversWords(HoldDefinition other, LocalDate today) =>
        DaysToCompare(other, today).All(day => CoversWordsOn(day, other));

    /// <summary>
    /// Dates that move with the day pass fixed ones sooner or later, and months have different lengths: such queries are
    /// compared on every day of a year and far ahead.
    /// </summary>
    private IEnumerable<LocalDate> DaysToCompare(HoldDefinition other, LocalDate today) =>
        new[] { Query, other.Query }.Any(q => q?.Contains("today", StringComparison.OrdinalIgnoreCase) == true)
            ? Enumerable.Range(0, 367).Select(today.PlusDays).Append(today.PlusYears(1_000))
            : [today];

    private bool CoversWordsOn(LocalDate day, HoldDefinition other)
    {
        var (own, others) = (Check(day), other.Check(day));
        return !own.Refused
            && !others.Refused
            && (
                own.Value is not { Condition: var wide }
                || (others.Value is { Condition: var narrow } && wide.Covers(narrow))
            );
    }

    /// <summary>Whether something dated by this span falls within the range.</summary>
    public bool Touches(LocalDate created, LocalDate modified) =>
        !(modified < From) && !(LocalDate.Min(created, modified) > To);
}

/// <summary>
/// A custodian as content knows them: the places that are theirs, and what they wrote or answer for anywhere.
/// </summary>
/// <param name="Containers">Ids of mailboxes, folders and channels.</param>
/// <param name="Names">Name and mail address as author or owner of items; empty where what they wrote elsewhere is left
/// out.</param>
public sealed record CustodianPlaces(IReadOnlyList<long> Containers, IReadOnlyList<string> Names)
{
    /// <summary>
    /// Whether a place carries somebody's name or mail address: the name itself in one of its usual forms
    /// (<c>karl.nyman</c>, <c>k.nyman</c>, <c>nyman.karl</c>, <c>nymank</c>, <c>Nyman, Karl</c>), with or without a file
    /// ending, or followed by something that parts it from more (<c>karl.nyman-archive</c>). Common practice for the names
    /// of mailboxes and home folders.
    /// </summary>
    /// <param name="container">The name of a mailbox, folder or channel.</param>
    public static bool IsNamedAfter(string container, string name, string mail)
    {
        var bare = container.TrimStart('#');
        return new[] { mail.Split('@')[0], mail, name }
            .Concat(FormsOf(name))
            .Any(n =>
                n.Length > 0
                && bare.StartsWith(n, StringComparison.OrdinalIgnoreCase)
                && (
                    bare.Length == n.Length
                    || bare[n.Length] is ' ' or '-' or '_' or '(' or '+'
                    || (bare[n.Length] == '.' && bare.IndexOf('.', n.Length + 1) < 0 && bare.Length - n.Length <= 5)
                )
            );
    }

    /// <summary>First and last name in either order, and the initial with the last name; nothing for a single word.</summary>
    private static IEnumerable<string> FormsOf(string name)
    {
        var words = name.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        if (words.Length < 2)
        {
            return [];
        }

        var (first, last) = (words[0], words[^1]);
        string[] between = [".", "_", "-", " ", ""];
        return new[] { (first, last), (last, first), (first[..1], last), (last, first[..1]) }
            .SelectMany(pair => between.Select(b => pair.Item1 + b + pair.Item2))
            .Append($"{last}, {first}");
    }
}
