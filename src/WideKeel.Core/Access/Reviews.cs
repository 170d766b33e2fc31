using System.Globalization;
using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>Whose access a review asks about.</summary>
public enum ReviewPeople
{
    Everybody,
    Guests,

    /// <summary>Who did not sign in for a number of days.</summary>
    Inactive,
}

/// <summary>Who is asked first.</summary>
public enum ReviewerKind
{
    Owner,
    Manager,
    Self,
    Named,
}

/// <summary>What no answer means.</summary>
public enum SilenceRule
{
    Keep,
    Remove,
    Advice,
}

/// <summary>What was decided on a line.</summary>
public enum LineDecision
{
    Open,
    Keep,
    Remove,
    CannotSay,
}

/// <summary>Groups, places and applications that a review asks about as they are at the start of each round.</summary>
public enum ReviewSet
{
    /// <summary>Every place that holds sensitive material.</summary>
    SensitivePlaces,

    /// <summary>Every place that a link opens.</summary>
    PlacesWithLinks,

    /// <summary>Every group with a guest in it.</summary>
    GroupsWithGuests,

    /// <summary>Every application that has a consent.</summary>
    AllApplications,
}

/// <summary>Who is asked after those before them, about the same lines.</summary>
/// <param name="Named">Mail addresses, for <see cref="ReviewerKind.Named"/>.</param>
/// <param name="Days">How long the stage lasts.</param>
/// <param name="SeesFormer">Whether they see what was answered before them.</param>
public sealed record ReviewStage(ReviewerKind Reviewer, IReadOnlyList<string> Named, int Days, bool SeesFormer);

/// <summary>What was answered on a line in a stage before the last.</summary>
/// <param name="Decision"><see cref="LineDecision.Open"/> where nobody answered.</param>
public sealed record FormerAnswer(string Reviewer, LineDecision Decision, string Reason)
{
    /// <summary>The changes by which the answer would be carried out.</summary>
    public IReadOnlyList<DirectoryChange> Changes { get; init; } = [];
}

/// <summary>What a review asks, of whom, and what follows.</summary>
/// <param name="Groups">Groups whose members are asked about.</param>
/// <param name="Resources">Places whose audience is asked about.</param>
/// <param name="InactiveDays">For <see cref="ReviewPeople.Inactive"/>.</param>
/// <param name="Named">Who is asked, for <see cref="ReviewerKind.Named"/>; lines are dealt out in turn.</param>
/// <param name="Deputy">Who decides when the reviewer cannot.</param>
/// <param name="Days">How long a round lasts.</param>
/// <param name="Recurrence">RFC 5545 rule; empty for one round.</param>
/// <param name="ApplyItself">Carried out at the end without another confirmation.</param>
public sealed record ReviewDefinition(
    string Name,
    IReadOnlyList<string> Groups,
    IReadOnlyList<string> Resources,
    ReviewPeople People,
    int InactiveDays,
    ReviewerKind Reviewer,
    IReadOnlyList<string> Named,
    string Deputy,
    int Days,
    LocalDate Start,
    string Recurrence,
    bool ReasonsRequired,
    SilenceRule Silence,
    bool ApplyItself,
    string Words
)
{
    /// <summary>Applications whose consents are asked about.</summary>
    public IReadOnlyList<string> Applications { get; init; } = [];

    /// <summary>What is asked about besides, as it is at the start of each round.</summary>
    public IReadOnlyList<ReviewSet> Sets { get; init; } = [];

    /// <summary>On places only these roles are asked about; empty for all.</summary>
    public IReadOnlyList<string> Roles { get; init; } = [];

    /// <summary>
    /// Whether the links of the places are lines of their own; who reaches a place by a link alone is not asked about then.
    /// </summary>
    public bool Links { get; init; }

    /// <summary>The stages after the first, each of which asks anew about every line.</summary>
    public IReadOnlyList<ReviewStage> Later { get; init; } = [];

    /// <summary>So many days before its end whoever is silent is reminded.</summary>
    public IReadOnlyList<int> Reminders { get; init; } = [3];

    /// <summary>What a reminder says before the rest; empty for the words of the first message.</summary>
    public string ReminderWords { get; init; } = "";

    /// <summary>Mail addresses of those who are informed of the end of a round.</summary>
    public IReadOnlyList<string> Informed { get; init; } = [];

    /// <summary>Whether another definition asks the same people in each stage.</summary>
    public bool AsksTheSameAs(ReviewDefinition other) =>
        (Reviewer, Deputy) == (other.Reviewer, other.Deputy)
        && Named.SequenceEqual(other.Named, StringComparer.Ordinal)
        && Later.Count == other.Later.Count
        && Later
            .Zip(other.Later)
            .All(s =>
                s.First.Reviewer == s.Second.Reviewer
                && s.First.Named.SequenceEqual(s.Second.Named, StringComparer.Ordinal)
            );
}

/// <summary>What is known of accounts beyond the directory, for advice.</summary>
/// <param name="LastSignIn">By account; missing where none is known.</param>
/// <param name="Managers">The manager of each person who has one.</param>
/// <param name="Stewards">The steward of each unit.</param>
/// <param name="Confirmed">What was confirmed in a review within the last month, by person and resource or group.</param>
public sealed record ReviewFacts(
    MendingFacts Directory,
    IReadOnlyDictionary<string, LocalDate> LastSignIn,
    IReadOnlyDictionary<string, string> Managers,
    IReadOnlyDictionary<string, string> Stewards,
    IReadOnlySet<(string Person, string What)> Confirmed
)
{
    /// <summary>Mail addresses of those who manage access, in the order in which they are asked where nobody else can.</summary>
    public IReadOnlyList<string> AccessManagers { get; init; } = [];
}

/// <summary>One question of a round.</summary>
/// <param name="What">The group or resource.</param>
/// <param name="Path">From the person to it, by ids.</param>
/// <param name="Reviewer">Mail address of who is asked.</param>
/// <param name="Grounds">Why the advice is what it is, as sentences.</param>
public sealed record ReviewQuestion(
    string Person,
    string What,
    IReadOnlyList<string> Roles,
    IReadOnlyList<string> Path,
    string Reviewer,
    bool AdviseRemoval,
    IReadOnlyList<string> Grounds
);

/// <summary>Makes the lines of a round, with their reviewers and the advice.</summary>
public static class Reviews
{
    /// <param name="owner">The review's owner: decides where nobody else can.</param>
    public static IReadOnlyList<ReviewQuestion> Questions(ReviewDefinition review, ReviewFacts facts, string owner)
    {
        var directory = facts.Directory;
        var access = new EffectiveAccess(directory.Model, directory.Today);
        var toxic = Mending.List(Mending.Toxic, directory, access)!.Lines.Select(l => (l.Who, l.What)).ToHashSet();
        Dictionary<string, IReadOnlySet<string>> audiences = new(StringComparer.Ordinal);
        return
        [
            .. ReviewScope
                .Of(review, directory, access)
                .Held()
                .Select(h => (Held: h, Person: ReviewScope.PersonOf(directory, h.Person)))
                .Where(l => l.Person is not null && Asked(review, facts, l.Person))
                .Select((line, turn) => Question(line.Held, line.Person!, turn)),
        ];

        ReviewQuestion Question(HeldAccess held, PersonFacts person, int turn)
        {
            var (remove, grounds) =
                Removals.IsEverybody(person.Id) || held.IsConsent
                    ? ReviewAdvice.OfEverybody(directory, held)
                    : ReviewAdvice.Of(facts, toxic, person, held.What, AudienceOf(held.What));
            return new(
                person.Id,
                held.What,
                held.Roles,
                held.Path,
                ReviewerOf(review, 1, facts, person, held.What, owner, turn),
                remove,
                grounds
            );
        }

        IReadOnlySet<string> AudienceOf(string what)
        {
            if (!audiences.TryGetValue(what, out var audience))
            {
                audiences[what] = audience = directory.GroupOwners.ContainsKey(what)
                    ? access.PeopleIn(what).ToHashSet(StringComparer.Ordinal)
                    : access.Audience(what);
            }

            return audience;
        }
    }

    /// <summary>What a review does not ask about though one might think so, as sentences.</summary>
    public static IReadOnlyList<string> LeftOut(ReviewDefinition review, MendingFacts facts, EffectiveAccess access) =>
        ReviewScope.Of(review, facts, access).LeftOut();

    /// <inheritdoc cref="ReviewScope.PersonOf"/>
    public static PersonFacts? PersonOf(MendingFacts facts, string person) => ReviewScope.PersonOf(facts, person);

    private static bool Asked(ReviewDefinition review, ReviewFacts facts, PersonFacts person) =>
        Removals.IsEverybody(person.Id)
        || review.People switch
        {
            ReviewPeople.Everybody => true,
            ReviewPeople.Guests => person.Kind == AccountKind.Guest,
            ReviewPeople.Inactive => !facts.LastSignIn.TryGetValue(person.Id, out var last)
                || last < facts.Directory.Today.PlusDays(-review.InactiveDays),
            _ => throw new ArgumentOutOfRangeException(nameof(review)),
        };

    /// <summary>
    /// Who is asked: the chosen one, else the deputy, else the steward of the person's unit, else the review's owner, else
    /// who manages access. Nobody who has left is asked, and nobody about themselves, unless the stage asks each about
    /// themselves.
    /// </summary>
    /// <param name="stage">Which one asks, from 1.</param>
    /// <param name="dealt">The number of the line, by which lines are dealt out among named reviewers.</param>
    public static string ReviewerOf(
        ReviewDefinition review,
        int stage,
        ReviewFacts facts,
        PersonFacts person,
        string what,
        string owner,
        int dealt
    )
    {
        var (kind, chosen) =
            stage == 1
                ? (review.Reviewer, review.Named)
                : (review.Later[stage - 2].Reviewer, review.Later[stage - 2].Named);
        var first = kind switch
        {
            ReviewerKind.Self => person.Id,
            ReviewerKind.Manager => facts.Managers.GetValueOrDefault(person.Id) ?? person.Sponsor,
            ReviewerKind.Named => chosen.Count == 0 ? null : chosen[dealt % chosen.Count],
            ReviewerKind.Owner => OwnerOf(facts.Directory, what),
            _ => throw new ArgumentOutOfRangeException(nameof(review)),
        };
        return new[] { first, review.Deputy, facts.Stewards.GetValueOrDefault(person.Unit), owner }
                .Concat(facts.AccessManagers)
                .FirstOrDefault(candidate =>
                    !string.IsNullOrEmpty(candidate)
                    && (kind == ReviewerKind.Self || !IsSame(candidate, person.Id))
                    && !HasLeft(facts, candidate)
                )
            ?? owner;
    }

    private static bool IsSame(string one, string other) =>
        string.Equals(one, other, StringComparison.OrdinalIgnoreCase);

    /// <summary>Whether the directory says of somebody that they have left; who is not in it has not.</summary>
    public static bool HasLeft(ReviewFacts facts, string mail) =>
        facts.Directory.People.TryGetValue(mail, out var known) && known.Left <= facts.Directory.Today;

    private static string? OwnerOf(MendingFacts facts, string what)
    {
        if (facts.GroupOwners.TryGetValue(what, out var owner))
        {
            return owner;
        }

        for (var at = what; at is not null; at = facts.Parents.GetValueOrDefault(at))
        {
            if (facts.Resources.GetValueOrDefault(at)?.Owner is { } named)
            {
                return named;
            }
        }

        return null;
    }

    /// <summary>
    /// The Wilson score interval for a proportion, 95 % (z = 1.959964): E. B. Wilson, “Probable Inference, the Law of
    /// Succession, and Statistical Inference”, 1927.
    /// </summary>
    /// <param name="hits">0 to <paramref name="of"/>.</param>
    public static (double Lower, double Upper) Wilson(int hits, int of)
    {
        if (of == 0)
        {
            return (0, 1);
        }

        const double z = 1.959964;
        var share = (double)hits / of;
        var scale = 1 + (z * z / of);
        var middle = (share + (z * z / (2 * of))) / scale;
        var half = z / scale * Math.Sqrt((share * (1 - share) / of) + (z * z / (4.0 * of * of)));
        return (Math.Max(0, middle - half), Math.Min(1, middle + half));
    }

    /// <summary>
    /// What a line comes to at the end of a round: the last stage that said keep or remove decides, and where none did, the
    /// rule for silence. What people said of their own access decides nothing, and is left out before.
    /// </summary>
    /// <param name="decision">Of the last stage.</param>
    /// <param name="former">Of the stages before it, in their order.</param>
    public static LineDecision AtEnd(
        LineDecision decision,
        SilenceRule silence,
        bool adviseRemoval,
        IReadOnlyList<FormerAnswer>? former = null
    )
    {
        var said = (former ?? [])
            .Select(f => f.Decision)
            .Append(decision)
            .LastOrDefault(d => d is LineDecision.Keep or LineDecision.Remove);
        return said != LineDecision.Open
            ? said
            : silence switch
            {
                SilenceRule.Keep => LineDecision.Keep,
                SilenceRule.Remove => LineDecision.Remove,
                SilenceRule.Advice => adviseRemoval ? LineDecision.Remove : LineDecision.Keep,
                _ => throw new ArgumentOutOfRangeException(nameof(silence)),
            };
    }

    /// <summary>
    /// Whether somebody only stamped: all lines kept, at least five, none opened, with a median of less than two seconds
    /// from one decision to the next.
    /// </summary>
    /// <param name="decisions">Of one reviewer, each with its moment and whether its grounds were opened.</param>
    public static bool IsRubberStamp(IReadOnlyList<(LineDecision Decision, Instant At, bool Opened)> decisions)
    {
        if (decisions.Count < 5 || decisions.Any(d => d.Decision != LineDecision.Keep || d.Opened))
        {
            return false;
        }

        var gaps = decisions
            .OrderBy(d => d.At)
            .Zip(decisions.OrderBy(d => d.At).Skip(1), (a, b) => (b.At - a.At).TotalSeconds)
            .Order()
            .ToList();
        return gaps[gaps.Count / 2] < 2;
    }
}
