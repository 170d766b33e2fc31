namespace WideKeel.Core.Activity;

/// <summary>How a part of a watch's sentence is edited.</summary>
public enum WatchPartEditor
{
    Choice,
    Number,

    /// <summary>A length of time, ISO 8601.</summary>
    Length,

    /// <summary>A query over events.</summary>
    Query,
}

/// <summary>One value that a part can have, and how the sentence says it.</summary>
public sealed record WatchChoice(string Value, string Words);

/// <summary>An underlined part of a watch's sentence.</summary>
/// <param name="Name">As a file of watches names it.</param>
/// <param name="Label">What is edited, for those who do not see the sentence.</param>
/// <param name="Words">How a number is said, with # for it; null for itself.</param>
/// <param name="Beginning">Its value when a watch of the kind is begun, as a file gives it.</param>
/// <param name="Otherwise">What holds where a file does not give it; null where it has to.</param>
public sealed record WatchPart(
    string Name,
    string Label,
    WatchPartEditor Editor,
    object? Beginning,
    object? Otherwise = null,
    string? Words = null,
    IReadOnlyList<WatchChoice>? Choices = null
);

/// <summary>
/// A kind of watch with all that a screen needs to show and edit one: another kind is another of these, a record of
/// <see cref="Watch"/> and its evaluation.
/// </summary>
/// <param name="Code">Tells it apart on screen.</param>
/// <param name="Kind">As a file of watches names it.</param>
/// <param name="Usual">It learns what is usual instead of using a threshold.</param>
/// <param name="Words">What it looks for, in a list of kinds.</param>
/// <param name="Sentence">What it raises an alert for, with its parts in braces.</param>
/// <param name="Moves">The part that other thresholds of a back-test change; null where none can be pulled.</param>
public sealed record WatchKindView(
    string Code,
    string Kind,
    string Words,
    string Sentence,
    IReadOnlyList<WatchPart> Parts,
    bool Usual = false,
    string? Moves = null
);

/// <summary>The kinds of watch, in the order in which a list offers them.</summary>
public static class WatchKinds
{
    private static readonly WatchPart Per = new(
        "per",
        "Whose events are taken together",
        WatchPartEditor.Choice,
        "actor",
        "none",
        Choices:
        [
            new("actor", "one person"),
            new("address", "one address"),
            new("network", "one network"),
            new("object", "one object"),
            new("container", "one container"),
            new("application", "one application"),
            new("channel", "one channel"),
            new("none", "everyone together"),
        ]
    );

    private static readonly WatchPart Of = new(
        "of",
        "What is measured",
        WatchPartEditor.Choice,
        "events",
        "events",
        Choices:
        [
            new("events", "events"),
            new("sum:amount", "in amount"),
            new("distinct:object", "different objects"),
            new("distinct:container", "different containers"),
            new("distinct:address", "different addresses"),
            new("distinct:network", "different networks"),
            new("distinct:actor", "different people"),
            new("distinct:target", "different recipients"),
        ]
    );

    private static readonly WatchPart Sensitivity = new(
        "sensitivity",
        "Sensitivity",
        WatchPartEditor.Choice,
        "medium",
        "medium",
        Choices: [new("low", "low sensitivity"), new("medium", "medium sensitivity"), new("high", "high sensitivity")]
    );

    private static readonly WatchPart Least = new(
        "least",
        "The least number",
        WatchPartEditor.Number,
        5,
        5,
        "at least #"
    );

    public static IReadOnlyList<WatchKindView> All { get; } =
    [
        new("each", "each", "something happens at all", "each event", []),
        new(
            "count",
            "count",
            "there is much of it in a short time",
            "{threshold} {of} within {within} by {per}",
            [
                new("threshold", "Threshold", WatchPartEditor.Number, 10, Words: "# or more"),
                Of,
                Length("within", "PT1H"),
                Per,
            ],
            Moves: "threshold"
        ),
        new(
            "usual",
            "count",
            "there is more in a short time than is usual",
            "far more {of} within {within} than is usual for {per}, {least}, with {sensitivity}",
            [Of, Length("within", "P1D"), Per with { Beginning = "none" }, Least, Sensitivity],
            Usual: true
        ),
        new(
            "first",
            "first",
            "something is seen for the first time",
            "{dimension} never seen before for {scope}, after learning for {learn}",
            [
                new(
                    "dimension",
                    "What is new",
                    WatchPartEditor.Choice,
                    "country",
                    Choices:
                    [
                        new("country", "a country"),
                        new("network", "a network"),
                        new("device", "a device"),
                        new("application", "an application"),
                        new("action", "an action"),
                    ]
                ),
                new(
                    "scope",
                    "New to whom",
                    WatchPartEditor.Choice,
                    "actor",
                    "organisation",
                    Choices:
                    [
                        new("actor", "the person"),
                        new("peers", "people of the same unit and title"),
                        new("organisation", "the organisation"),
                    ]
                ),
                new("learn", "It learns for", WatchPartEditor.Length, "P14D", "PT0S"),
            ]
        ),
        new(
            "unusual",
            "unusual",
            "somebody does far more in an hour than is usual for them",
            "far more {of} in an hour than is usual for {per}, {least}, with {sensitivity}",
            [Of, Per, Least, Sensitivity]
        ),
        new(
            "drift",
            "drift",
            "activity rises over several days",
            "more {of} per day than {against}, by {per}, with {sensitivity}",
            [
                Of,
                new(
                    "against",
                    "Compared with",
                    WatchPartEditor.Choice,
                    "both",
                    "self",
                    Choices:
                    [
                        new("self", "in the weeks before"),
                        new("peers", "people of the same unit and title"),
                        new("both", "in the weeks before and than people of the same unit and title"),
                    ]
                ),
                Per,
                Sensitivity,
            ]
        ),
        new(
            "journey",
            "journey",
            "somebody signs in at two places too soon",
            "two sign-ins farther apart than {maxKmh} allow, over {minKm}",
            [
                new("maxKmh", "Kilometres an hour", WatchPartEditor.Number, 900, 900, "# km/h"),
                new("minKm", "Kilometres", WatchPartEditor.Number, 500, 500, "# km or more"),
            ],
            Moves: "maxKmh"
        ),
        new(
            "elsewhere",
            "elsewhere",
            "somebody is active at two places at once",
            "one person active at places {minKm} apart within {within}",
            [new("minKm", "Kilometres", WatchPartEditor.Number, 300, 300, "# km or more"), Length("within", "PT10M")],
            Moves: "minKm"
        ),
        new(
            "woken",
            "woken",
            "activity resumes after a long silence",
            "the first event of {per} after {quiet} without any",
            [Per, new("quiet", "Silent for", WatchPartEditor.Length, "P30D")]
        ),
        new(
            "silence",
            "silence",
            "nothing arrives for a set time",
            "no event for {for}",
            [new("for", "For how long", WatchPartEditor.Length, "PT6H")]
        ),
        new(
            "rhythm",
            "rhythm",
            "something is silent at unusual hours",
            "{per} silent for longer than is usual at these hours of the week, with {sensitivity}",
            [
                Per with
                {
                    Beginning = "channel",
                    Choices =
                    [
                        new("channel", "one channel"),
                        new("address", "one address"),
                        new("application", "one application"),
                        new("none", "everything"),
                    ],
                },
                Sensitivity,
            ]
        ),
        new(
            "sequence",
            "sequence",
            "one thing follows another",
            "first {first}, then {then} within {within} by {per}",
            [
                new("first", "What comes first", WatchPartEditor.Query, "action = log.stop"),
                new("then", "What follows", WatchPartEditor.Query, "action = file.delete"),
                Length("within", "PT1H"),
                Per,
            ]
        ),
    ];

    private static WatchPart Length(string name, string beginning) =>
        new(name, "Within", WatchPartEditor.Length, beginning);
}
