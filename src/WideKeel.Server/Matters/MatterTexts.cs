using NodaTime;
using WideKeel.Server.Notifications;

namespace WideKeel.Server.Matters;

/// <summary>What messages about matters say.</summary>
internal static class MatterTexts
{
    public static MessageText ReleaseAsked(string matter, string by, long items, long due, string why) =>
        new(
            "release",
            $"{by} asks for your agreement: a release in {matter}",
            $"{by} asks to release {Wording.Plural(items, "item")} of {matter}, of which {Wording.Number(due)} "
                + $"become due. {by} says why: {why}",
            "a second member must agree, and you may"
        );

    /// <summary>Under a release, where another matter still binds the person.</summary>
    public const string StillBound =
        "Another notice to you still stands: keep what that one names until you are told otherwise.";

    public static MessageText NoticeReminder(string subject) =>
        new(
            "notice-reminder",
            $"Reminder: {subject}",
            "A notice that was sent to you waits for your acknowledgement. Open it, answer its questions, and "
                + "keep what it names until you are told otherwise.",
            "you have not acknowledged it yet"
        );

    public static MessageText NoticeEscalation(string custodian, int days) =>
        new(
            "notice-escalation",
            $"{custodian} has not acknowledged a notice",
            $"{custodian} was sent a notice {Wording.Plural(days, "day")} ago and has not acknowledged it. Please see that they do.",
            "you are their manager"
        );

    public static MessageText Entrance(string matter, string member, string what, string by) =>
        new(
            "matter-entrance",
            $"{member} {what}: {matter}",
            $"{member} {what}, by a change that {by} made to people, groups or roles. "
                + "If that is not meant, change the members of the matter.",
            "you lead the matter"
        );

    public static MessageText PlaceFound(string matter, string custodian, string place) =>
        new(
            "custodian-place",
            $"A new place of {custodian}, custodian of {matter}",
            $"“{place}” was found and carries the name of {custodian}. Orders in force that name {custodian} keep what is "
                + "in it. Decide whether it is theirs.",
            "you lead the matter"
        );

    public static MessageText HeldItemsChanged(string matter, long items, string first) =>
        new(
            "held-items-changed",
            $"{Wording.Plural(items, "held item")} changed: {matter}",
            (
                items == 1
                    ? $"“{first}” is held by {matter} and was changed."
                    : $"“{first}” and {Wording.Plural(items - 1, "other item")} are held by {matter} and were changed."
            ) + " The former content is in safekeeping; the new content is held too.",
            "you lead the matter"
        );

    public static MessageText CustodianLeaves(string matter, string custodian, LocalDate on) =>
        new(
            "custodian-leaves",
            $"A custodian of {matter} leaves: {custodian}",
            $"{custodian} leaves on {Wording.Day(on)}. Make sure that a hold order keeps their content before the account goes.",
            "you lead the matter"
        );
}
