using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Server.Retention;

/// <summary>A rule in full, before and after, as a second person reads it.</summary>
internal static class RuleParts
{
    public static IReadOnlyList<ActPart> Of(SeriesDefinition? before, SeriesDefinition after)
    {
        var (was, becomes) = (before is null ? null : Words(before), Words(after));
        return [.. becomes.Select((part, i) => new ActPart(part.Name, was?[i].Value, part.Value)).Where(IsToRead)];
    }

    /// <param name="after">Null where it is retired.</param>
    public static IReadOnlyList<ActPart> Of(BlanketDefinition? before, BlanketDefinition? after)
    {
        var (was, becomes) = (before is null ? null : Words(before), after is null ? null : Words(after));
        return
        [
            .. (becomes ?? was)!
                .Select((part, i) => new ActPart(part.Name, was?[i].Value, becomes?[i].Value))
                .Where(IsToRead),
        ];
    }

    /// <summary>What is empty before and after says nothing.</summary>
    private static bool IsToRead(ActPart part) =>
        !string.IsNullOrEmpty(part.Before) || !string.IsNullOrEmpty(part.After);

    private static List<(string Name, string Value)> Words(SeriesDefinition one) =>
        [
            ("Title", one.Title),
            ("Description", one.Description),
            ("Guidance", one.Guidance),
            ("Function", one.Descriptors.Function),
            ("Activity", one.Descriptors.Activity),
            ("Sub-activity", one.Descriptors.SubActivity),
            ("Department", one.Descriptors.Department),
            ("Tags", string.Join(", ", one.Descriptors.Tags)),
            ("Owner", one.Owner),
            ("Authorities", string.Join(", ", one.Authorities)),
            ("Kept", RuleWords.Short(one)),
            ("At the end", End(one.AtEnd)),
            ("Grade", one.Grade.ToString()),
            ("Can only be tightened", one.Ratchet ? "yes" : "no"),
            ("Grace", Wording.Plural(one.GraceDays, "day")),
            (
                "Signed by",
                one.AtEnd is EndAction.SignOff or EndAction.Transfer
                    ? string.Join(", then ", one.Stages.Select(s => s.Text))
                    : "nobody"
            ),
        ];

    private static List<(string Name, string Value)> Words(BlanketDefinition one) =>
        [
            ("Description", one.Description),
            ("Rule", RuleWords.Short(one)),
            ("Covers", one.Reach.Query ?? $"{Wording.Plural(one.Reach.Containers.Count, "container")} by name"),
            ("Except", one.Reach.Except.Count == 0 ? "" : Wording.Plural(one.Reach.Except.Count, "container")),
        ];

    private static string End(EndAction end) =>
        end switch
        {
            EndAction.Nothing => "nothing",
            EndAction.Destroy => "destroyed without sign-off",
            EndAction.SignOff => "destroyed after sign-off",
            _ => "transferred to the archive",
        };
}
