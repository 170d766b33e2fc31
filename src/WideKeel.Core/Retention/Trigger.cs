using System.Text.RegularExpressions;
using NodaTime;

namespace WideKeel.Core.Retention;

/// <summary>
/// A kind of trigger, with all that is known of it: how codes write it, where its date stands, what reasons call it. A
/// new kind is a new entry of <see cref="All"/>; codes, pipeline, evaluation and reasons go by the entry.
/// </summary>
public sealed class TriggerKind
{
    private delegate LocalDate? Reader(in ItemFacts item, string? name);

    private readonly Reader read;

    private TriggerKind(string word, Reader read, string? title = null, string? argument = null) =>
        (Word, this.read, Title, Argument) = (word, read, title, argument);

    public static TriggerKind Created { get; } =
        new("created", (in ItemFacts item, string? _) => item.Created, "Created") { ForBlankets = true };

    public static TriggerKind Modified { get; } =
        new("modified", (in ItemFacts item, string? _) => item.Modified, "Last modified") { ForBlankets = true };

    public static TriggerKind Filed { get; } = new("filed", (in ItemFacts item, string? _) => item.Filed, "Filed");

    /// <summary>A date field of the item.</summary>
    public static TriggerKind Field { get; } =
        new("field", (in ItemFacts item, string? name) => item.Clocks?.Field(name!), argument: "NAME")
        {
            IgnoresCase = true,
        };

    /// <summary>The latest trigger event of a type for the item's subject.</summary>
    public static TriggerKind Event { get; } =
        new("event", (in ItemFacts item, string? name) => item.Clocks?.Event(name!), argument: "TYPE")
        {
            Missing = "no such event of its subject yet",
            OfItem = false,
        };

    public static IReadOnlyList<TriggerKind> All { get; } = [Created, Modified, Filed, Field, Event];

    /// <summary>As codes write it: <c>created</c>, or <c>field</c> in <c>field:NAME</c>.</summary>
    public string Word { get; }

    /// <summary>What codes put after the colon; null for dates that every item has.</summary>
    public string? Argument { get; }

    /// <summary>What reasons call it; null where its own name does.</summary>
    public string? Title { get; }

    /// <summary>A blanket may count from it.</summary>
    public bool ForBlankets { get; private init; }

    /// <summary>Its date is the item's own, and is fixed when the item is declared.</summary>
    public bool OfItem { get; private init; } = true;

    /// <summary>Names of it are the same in whatever case.</summary>
    public bool IgnoresCase { get; private init; }

    /// <summary>What reasons say where it has no date.</summary>
    public string Missing { get; private init; } = "no date that can be counted from";

    /// <summary>How it is written, with the place of its name.</summary>
    public string Shape => Argument is null ? Word : $"{Word}:{Argument}";

    /// <summary>All shapes in a row, for a sentence.</summary>
    public static string Shapes { get; } =
        $"{string.Join(", ", All.SkipLast(1).Select(k => k.Shape))} or {All[^1].Shape}";

    /// <summary>The date that it gives for an item; null where there is none.</summary>
    public LocalDate? DateOf(in ItemFacts item, string? name) => read(item, name);

    public override string ToString() => Word;
}

/// <summary>Where the clock of a clause starts.</summary>
/// <param name="Name">Of the field or of the type of event; null for the dates that every item has.</param>
public readonly partial record struct Trigger(TriggerKind Kind, string? Name = null)
{
    public static Trigger Created { get; } = new(TriggerKind.Created);

    public static Trigger Modified { get; } = new(TriggerKind.Modified);

    public static Trigger Filed { get; } = new(TriggerKind.Filed);

    public static Trigger Field(string name) => new(TriggerKind.Field, name);

    public static Trigger Event(string type) => new(TriggerKind.Event, type);

    /// <summary>The word of its kind, and after a colon its name: <c>created</c>, <c>field:closed</c>.</summary>
    public string Code => Kind.Argument is null ? Kind.Word : $"{Kind.Word}:{Name}";

    /// <summary>What reasons call it.</summary>
    public string Title => Kind.Title ?? char.ToUpperInvariant(Name![0]) + Name[1..].Replace('-', ' ');

    /// <summary>Reads a code. A name has small letters, digits and hyphens, at most 40.</summary>
    public static Outcome<Trigger> Parse(string? code, string field = "trigger") =>
        Read(code) is { } trigger && trigger.Code == code && (trigger.Name is null || IsName(trigger.Name))
            ? trigger
            : new Refusal(
                "trigger-unknown",
                field,
                $"The clock starts at {TriggerKind.Shapes}; a name has small letters, digits and hyphens, at most 40."
            );

    /// <summary>
    /// Reads a code whose name may be any: other systems name their fields and events as they like. Null where it is
    /// none.
    /// </summary>
    public static Trigger? Read(string? code)
    {
        var colon = code?.IndexOf(':') ?? -1;
        var (word, name) = colon < 0 ? (code, null) : (code![..colon], code[(colon + 1)..]);
        var kind = TriggerKind.All.FirstOrDefault(k => k.Word == word && k.Argument is null == name is null);
        return kind is null || name is "" ? null : new(kind, kind.IgnoresCase ? name?.ToLowerInvariant() : name);
    }

    public static bool IsName(string? text) => text is not null && NameShape().IsMatch(text);

    [GeneratedRegex(@"\A[a-z][a-z0-9\-]{0,39}\z")]
    private static partial Regex NameShape();
}
