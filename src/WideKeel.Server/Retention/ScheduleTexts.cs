using WideKeel.Server.Notifications;

namespace WideKeel.Server.Retention;

/// <summary>What messages about the schedule say.</summary>
internal static class ScheduleTexts
{
    public static MessageText Proposed(string by, string title, string why) =>
        new(
            "proposal",
            $"{by} asks for your agreement",
            $"{title}. {by} says why: {why}",
            "a second person must agree, and you may"
        );

    public static MessageText Closed(string title, string reason) =>
        new(
            "proposal-closed",
            "Your request to a second person was closed",
            $"{title}. It was closed: {reason} Ask again if the change is still needed.",
            "you asked for it"
        );
}
