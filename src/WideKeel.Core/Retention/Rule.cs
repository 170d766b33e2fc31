using System.Text.RegularExpressions;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>Where the clock starts.</summary>
public abstract partial record Trigger
{
    private Trigger()
    {
    }

    public sealed record Created : Trigger
    {
        public override string Code => "created";
    }

    public sealed record Modified : Trigger
    {
        public override string Code => "modified";
    }

    /// <summary>A date field of the item, such as <c>closed</c>.</summary>
    public sealed record DateField(string Name) : Trigger
    {
        public override string Code => $"field:{Name}";
    }

    /// <summary><c>created</c>, <c>modified</c> or <c>field:NAME</c>.</summary>
    public abstract string Code { get; }

    public static Outcome<Trigger> Parse(string? code, string field = "trigger") => code switch
    {
        "created" => new Created(),
        "modified" => new Modified(),
        not null when FieldShape().Match(code) is { Success: true } match => new DateField(match.Groups[1].Value),
        _ => new Refusal("trigger-unknown", field, "The clock starts at created, modified, or field:NAME with a name of letters, digits and hyphens."),
    };

    /// <summary>The date that starts the clock, or null when the item has none that can be counted from.</summary>
    public LocalDate? DateOf(in ItemFacts item, LocalDate today)
    {
        var date = this switch
        {
            Created => item.Created,
            Modified => item.Modified,
            DateField => item.FieldDate,
            _ => throw new InvalidOperationException($"No such trigger: {Code}."),
        };
        return date is { } found && PlausibleDate.Holds(found, today) ? found : null;
    }

    [GeneratedRegex(@"\Afield:([a-z][a-z0-9\-]{0,39})\z")]
    private static partial Regex FieldShape();
}

/// <summary>What happens when the term is over.</summary>
public enum EndAction
{
    /// <summary>Nothing: the item is no longer kept, and nobody is asked to remove it.</summary>
    Nothing,

    /// <summary>Destroyed after sign-off on the docket.</summary>
    SignOff,
}

/// <summary>How long, from when, and what then.</summary>
public abstract record Rule
{
    private Rule()
    {
    }

    public sealed record Permanent : Rule;

    /// <summary>Kept through K = C + P, where C is the last day of the cutoff period that contains the trigger's date.</summary>
    public sealed record Timed(Trigger Trigger, Cutoff Cutoff, Period Period, EndAction AtEnd) : Rule;

    /// <summary>The date field that the rule looks at, if it looks at one.</summary>
    public string? DateFieldName => this is Timed { Trigger: Trigger.DateField dateField } ? dateField.Name : null;
}

/// <summary>The dates of one item under one rule, for the reasons and the tideline.</summary>
public readonly record struct ClauseDates(LocalDate? Base, LocalDate? Cutoff, LocalDate? Until);

/// <summary>What the rules say of one item on one day.</summary>
/// <param name="DisposableFrom">The first day on which the end action may happen; null while there is none.</param>
public readonly record struct Standing(ItemState State, KeepUntil KeepUntil, LocalDate? DisposableFrom, Grade Grade)
{
    /// <summary>Something keeps the item today.</summary>
    public bool Keeps(LocalDate today) => KeepUntil >= KeepUntil.On(today);
}
