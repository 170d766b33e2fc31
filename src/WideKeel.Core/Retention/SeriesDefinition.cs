using System.Globalization;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>Who signs a stage of a batch: a role within the series' unit.</summary>
public sealed record Stage(People.Role Role);

/// <summary>
/// Everything about a series that is versioned: what it holds, its rule, and who signs. Plain values; <see cref="Check"/> makes sure of them.
/// </summary>
/// <param name="Period">ISO 8601, null only when permanent.</param>
/// <param name="GraceDays">Days after falling due within which a disposal should be done, 0 to 3,650.</param>
public sealed record SeriesDefinition(
    string Title,
    string Description,
    string Guidance,
    string Function,
    string Authority,
    bool Permanent,
    string Trigger,
    Cutoff Cutoff,
    string? Period,
    EndAction AtEnd,
    int GraceDays,
    IReadOnlyList<Stage> Stages)
{
    public const int MaxTitle = 200;
    public const int MaxText = 4_000;

    /// <summary>The rule, or the first thing that is wrong with the definition.</summary>
    public Outcome<Rule> Check()
    {
        if (string.IsNullOrWhiteSpace(Title))
        {
            return new Refusal("title-missing", "title", "A series needs a title.");
        }

        if (Title.Length > MaxTitle)
        {
            return TooLong("title", "title", Title.Length, MaxTitle);
        }

        foreach (var (field, text) in new[] { ("description", Description), ("guidance", Guidance), ("function", Function), ("authority", Authority) })
        {
            if (text is null)
            {
                return new Refusal("text-missing", field, $"The {field} is missing; leave it empty instead.");
            }

            if (text.Length > MaxText)
            {
                return TooLong(field, field, text.Length, MaxText);
            }
        }

        if (GraceDays is < 0 or > 3_650)
        {
            return new Refusal("grace-out-of-range", "graceDays", "Grace is 0 to 3,650 days.");
        }

        if (Permanent)
        {
            return new Rule.Permanent();
        }

        if (AtEnd == EndAction.SignOff && Stages is not { Count: >= 2 and <= 6 })
        {
            return new Refusal("stages-too-few", "stages", "Destruction needs two to six people to sign, one after the other: nobody destroys alone.");
        }

        if (AtEnd == EndAction.SignOff && Stages.Any(s => !People.AccessPolicy.Grant(s.Role, People.Right.SignDisposition)))
        {
            return new Refusal("stage-without-right", "stages", "Only records managers and stewards sign a disposition.");
        }

        var trigger = Retention.Trigger.Parse(Trigger);
        if (trigger.Refused)
        {
            return trigger.Refusal!;
        }

        if (!Enum.IsDefined(Cutoff) || !Enum.IsDefined(AtEnd))
        {
            return new Refusal("choice-unknown", Enum.IsDefined(Cutoff) ? "atEnd" : "cutoff", "This is not one of the choices.");
        }

        var period = Time.Period.Parse(Period);
        return period.Refused ? period.Refusal! : new Rule.Timed(trigger.Value, Cutoff, period.Value, AtEnd);
    }

    /// <summary>The names of the parts that differ, in the order in which a person reads them.</summary>
    public IReadOnlyList<string> DifferencesFrom(SeriesDefinition other)
    {
        List<string> names = [];
        Compare("title", Title, other.Title);
        Compare("description", Description, other.Description);
        Compare("guidance", Guidance, other.Guidance);
        Compare("function", Function, other.Function);
        Compare("authority", Authority, other.Authority);
        Compare("permanent", Permanent, other.Permanent);
        Compare("trigger", Trigger, other.Trigger);
        Compare("cutoff", Cutoff, other.Cutoff);
        Compare("period", Period, other.Period);
        Compare("atEnd", AtEnd, other.AtEnd);
        Compare("graceDays", GraceDays, other.GraceDays);
        if (!Stages.SequenceEqual(other.Stages))
        {
            names.Add("stages");
        }

        return names;

        void Compare<T>(string name, T mine, T theirs)
        {
            if (!EqualityComparer<T>.Default.Equals(mine, theirs))
            {
                names.Add(name);
            }
        }
    }

    private static Refusal TooLong(string name, string field, int length, int most) =>
        new("text-too-long", field, string.Create(CultureInfo.InvariantCulture, $"The {name} has {length:N0} characters; {most:N0} is the most."));
}
