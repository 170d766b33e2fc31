using System.Globalization;
using System.Text.RegularExpressions;
using WideKeel.Core.Content;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>
/// Who signs a stage of a batch: anybody who holds a role within the series' unit, or one person of that role.
/// </summary>
/// <param name="Person">Mail address of the one who signs; empty for anybody with the role.</param>
/// <param name="Deputy">Mail address of the one who may sign instead once the stage is overdue; empty for
/// nobody.</param>
/// <param name="Days">Days after which the stage is overdue, 1 to 365.</param>
public sealed partial record Stage(People.Role Role, string Person = "", string Deputy = "", int Days = Stage.UsualDays)
{
    public const int UsualDays = 14;

    /// <summary>
    /// As it stands in a cell: <c>steward</c>, <c>steward: a@b.example</c>, <c>records-manager: a@b.example, deputy
    /// c@b.example, 7 days</c>.
    /// </summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public string Text =>
        string.Concat(
            System.Text.Json.JsonNamingPolicy.KebabCaseLower.ConvertName(Role.ToString()),
            Person.Length > 0 ? $": {Person}" : "",
            Deputy.Length > 0 ? $", deputy {Deputy}" : "",
            Days == UsualDays ? "" : string.Create(CultureInfo.InvariantCulture, $", {Days} days")
        );

    /// <summary>Reads what <see cref="Text"/> writes; null when it is something else.</summary>
    public static Stage? Parse(string text) =>
        Shape().Match(text) is { Success: true } match
        && Enum.TryParse<People.Role>(
            match.Groups["role"].Value.Replace("-", "", StringComparison.Ordinal),
            ignoreCase: true,
            out var role
        )
            ? new(
                role,
                match.Groups["person"].Value,
                match.Groups["deputy"].Value,
                match.Groups["days"].Success
                    ? int.Parse(match.Groups["days"].Value, CultureInfo.InvariantCulture)
                    : UsualDays
            )
            : null;

    /// <summary>The first thing that is wrong, or null.</summary>
    public Refusal? Check(string field) =>
        !Enum.IsDefined(Role) || !People.RightsPolicy.Grant(Role, People.Right.SignDisposition)
            ? new("stage-without-right", field, "Only records managers and stewards sign a disposition.")
        : Person is null || Deputy is null || !IsMailOrEmpty(Person) || !IsMailOrEmpty(Deputy)
            ? new("stage-malformed", field, "A person and a deputy are named by their mail addresses.")
        : Deputy.Length > 0 && Person.Length == 0
            ? new(
                "stage-malformed",
                field,
                "A deputy stands in for a person; name the person, or leave the stage to the role."
            )
        : Deputy.Length > 0 && string.Equals(Person, Deputy, StringComparison.OrdinalIgnoreCase)
            ? new("stage-malformed", field, "Nobody is their own deputy.")
        : Days is < 1 or > 365 ? new("stage-malformed", field, "A stage is overdue after 1 to 365 days.")
        : null;

    private static bool IsMailOrEmpty(string text) => text.Length == 0 || People.MailAddress.IsOne(text);

    [GeneratedRegex(
        @"\A(?<role>[A-Za-z-]+)(: (?<person>[^\s,;]+))?(, deputy (?<deputy>[^\s,;]+))?(, (?<days>[0-9]{1,3}) days?)?\z"
    )]
    private static partial Regex Shape();
}

/// <summary>A clause as it is written down.</summary>
/// <param name="Trigger">As <see cref="Retention.Trigger.Code"/>.</param>
/// <param name="Period">ISO 8601.</param>
public sealed record ClauseText(string Trigger, Cutoff Cutoff, string Period);

/// <summary>What tells one of thousands of series from another.</summary>
public sealed record Descriptors(
    string Function,
    string Activity,
    string SubActivity,
    string Department,
    IReadOnlyList<string> Tags
)
{
    public static Descriptors OfFunction(string function) => new(function, "", "", "", []);
}

/// <summary>
/// Everything about a series that is versioned: what it holds, its rule, and who signs. Plain values;
/// <see cref="Check"/> makes sure of them.
/// </summary>
/// <param name="Guidance">For staff, shown where they file.</param>
/// <param name="Owner">Who answers for the series; empty while nobody does.</param>
/// <param name="Authorities">Codes of the authorities that it rests on.</param>
/// <param name="Clauses">One to six unless permanent.</param>
/// <param name="GraceDays">Days after falling due within which a disposal should be done, 0 to 3,650.</param>
/// <param name="Ratchet">It can be tightened, never loosened; on for good once in force.</param>
public sealed record SeriesDefinition(
    string Title,
    string Description,
    string Guidance,
    Descriptors Descriptors,
    string Owner,
    IReadOnlyList<string> Authorities,
    bool Permanent,
    ClauseJoin Join,
    IReadOnlyList<ClauseText> Clauses,
    EndAction AtEnd,
    Grade Grade,
    bool Ratchet,
    int GraceDays,
    IReadOnlyList<Stage> Stages
)
{
    public const int MaxTitle = 200;
    public const int MaxText = 4_000;
    public const int MaxClauses = 6;
    private const int MaxShort = 100;
    private const int MaxList = 30;

    /// <summary>Clauses alone, to be checked and told in words like those of a series.</summary>
    public static SeriesDefinition OfClauses(ClauseJoin join, IReadOnlyList<ClauseText> clauses) =>
        new(
            "Clauses",
            "",
            "",
            Descriptors.OfFunction(""),
            "",
            [],
            false,
            join,
            clauses,
            EndAction.Nothing,
            Grade.Kept,
            false,
            0,
            []
        );

    /// <summary>The rule, or the first thing that is wrong with the definition.</summary>
    /// <param name="code">Of the series, which the rule is known by.</param>
    public Outcome<SeriesRule> Check(string code)
    {
        if (string.IsNullOrWhiteSpace(Title))
        {
            return new Refusal("title-missing", "title", "A series needs a title.");
        }

        if (CheckTexts() is { } text)
        {
            return text;
        }

        if (GraceDays is < 0 or > 3_650)
        {
            return new Refusal("grace-out-of-range", "graceDays", "Grace is 0 to 3,650 days.");
        }

        if (
            !Enum.IsDefined(AtEnd)
            || !Enum.IsDefined(Join)
            || Grade is not (Grade.Kept or Grade.Declared or Grade.Worm)
        )
        {
            return new Refusal(
                "choice-unknown",
                !Enum.IsDefined(AtEnd) ? "atEnd"
                    : !Enum.IsDefined(Join) ? "join"
                    : "grade",
                "This is not one of the choices."
            );
        }

        if (Permanent)
        {
            return new SeriesRule(code, Grade, AtEnd, true, Join, []) { Ratchet = Ratchet };
        }

        if (AtEnd is EndAction.SignOff or EndAction.Transfer && CheckStages() is { } stage)
        {
            return stage;
        }

        if (AtEnd == EndAction.Destroy && Grade != Grade.Kept)
        {
            return new Refusal(
                "destroy-without-sign-off",
                "atEnd",
                "What is declared or WORM is not destroyed without sign-off."
            );
        }

        return CheckClauses(code);
    }

    private Refusal? CheckStages() =>
        Stages is { Count: >= 2 and <= 6 }
            ? Stages
                .Select((s, i) => s.Check(string.Create(CultureInfo.InvariantCulture, $"stages[{i}]")))
                .FirstOrDefault(wrong => wrong is not null)
            : new(
                "stages-too-few",
                "stages",
                "Destruction and transfer need two to six people to sign, one after the other: nobody disposes alone."
            );

    /// <summary>The parts that say what a series holds and whose it is; the others are its rule.</summary>
    private static readonly string[] Words =
    [
        "title",
        "description",
        "guidance",
        "function",
        "activity",
        "subActivity",
        "department",
        "tags",
        "owner",
        "authorities",
    ];

    /// <summary>Whether another definition rules the same: they differ in words at most.</summary>
    public bool RulesAs(SeriesDefinition other) => !DifferencesFrom(other).Except(Words).Any();

    /// <summary>The names of the parts that differ, in the order in which a person reads them.</summary>
    public IReadOnlyList<string> DifferencesFrom(SeriesDefinition other)
    {
        List<string> names = [];
        Compare("title", Title, other.Title);
        Compare("description", Description, other.Description);
        Compare("guidance", Guidance, other.Guidance);
        Compare("function", Descriptors.Function, other.Descriptors.Function);
        Compare("activity", Descriptors.Activity, other.Descriptors.Activity);
        Compare("subActivity", Descriptors.SubActivity, other.Descriptors.SubActivity);
        Compare("department", Descriptors.Department, other.Descriptors.Department);
        CompareLists("tags", Descriptors.Tags, other.Descriptors.Tags);
        Compare("owner", Owner, other.Owner);
        CompareLists("authorities", Authorities, other.Authorities);
        Compare("permanent", Permanent, other.Permanent);
        Compare(
            "join",
            Clauses.Count > 1 || other.Clauses.Count > 1 ? Join : default,
            Clauses.Count > 1 || other.Clauses.Count > 1 ? other.Join : default
        );
        CompareLists("clauses", Clauses, other.Clauses);
        Compare("atEnd", AtEnd, other.AtEnd);
        Compare("grade", Grade, other.Grade);
        Compare("ratchet", Ratchet, other.Ratchet);
        Compare("graceDays", GraceDays, other.GraceDays);
        CompareLists("stages", Stages, other.Stages);
        return names;

        void Compare<T>(string name, T mine, T theirs)
        {
            if (!EqualityComparer<T>.Default.Equals(mine, theirs))
            {
                names.Add(name);
            }
        }

        void CompareLists<T>(string name, IReadOnlyList<T> mine, IReadOnlyList<T> theirs)
        {
            if (!mine.SequenceEqual(theirs))
            {
                names.Add(name);
            }
        }
    }

    private Outcome<SeriesRule> CheckClauses(string code)
    {
        if (Clauses is not { Count: >= 1 and <= MaxClauses })
        {
            return new Refusal(
                "clauses-missing",
                "clauses",
                "A rule has one to six clauses; “permanently” is the word for keeping without end."
            );
        }

        List<Clause> clauses = [];
        for (var i = 0; i < Clauses.Count; i++)
        {
            var at = string.Create(CultureInfo.InvariantCulture, $"clauses[{i}]");
            var trigger = Trigger.Parse(Clauses[i].Trigger, $"{at}.trigger");
            var period = Period.Parse(Clauses[i].Period, $"{at}.period", mayBeZero: true);
            if ((trigger.Refusal ?? period.Refusal) is { } wrong)
            {
                return wrong;
            }

            if (!Enum.IsDefined(Clauses[i].Cutoff))
            {
                return new Refusal("choice-unknown", $"{at}.cutoff", "This is not one of the choices.");
            }

            clauses.Add(new(trigger.Value, Clauses[i].Cutoff, period.Value));
        }

        return new SeriesRule(code, Grade, AtEnd, false, Join, clauses) { Ratchet = Ratchet };
    }

    private Refusal? CheckTexts()
    {
        (string Field, string? Text, int Most)[] texts =
        [
            ("title", Title, MaxTitle),
            ("description", Description, MaxText),
            ("guidance", Guidance, MaxText),
            ("function", Descriptors?.Function, MaxShort),
            ("activity", Descriptors?.Activity, MaxShort),
            ("subActivity", Descriptors?.SubActivity, MaxShort),
            ("department", Descriptors?.Department, MaxShort),
            ("owner", Owner, MaxShort),
        ];
        foreach (var (field, text, most) in texts)
        {
            if (text is null)
            {
                return new("text-missing", field, $"The {field} is missing; leave it empty instead.");
            }

            if (text.Length > most)
            {
                return new(
                    "text-too-long",
                    field,
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"The {field} has {text.Length:N0} characters; {most:N0} is the most."
                    )
                );
            }
        }

        foreach (var (field, list) in new[] { ("tags", Descriptors!.Tags), ("authorities", Authorities) })
        {
            if (
                list is null
                || list.Count > MaxList
                || list.Any(t =>
                    string.IsNullOrWhiteSpace(t) || t.Length > MaxShort || t.Contains(';', StringComparison.Ordinal)
                )
            )
            {
                return new(
                    "list-malformed",
                    field,
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"The {field} are at most {MaxList}, each of 1 to {MaxShort} characters without a semicolon."
                    )
                );
            }
        }

        return null;
    }
}
