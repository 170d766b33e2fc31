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
}
