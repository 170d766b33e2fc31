using System.Globalization;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Server.Notifications;

/// <summary>What a message says.</summary>
/// <param name="Kind">Which event it tells of.</param>
/// <param name="Because">Why this person is told, as what follows "because".</param>
/// <param name="Reminds">It reminds of something told before, so it waits for the morning.</param>
public sealed record MessageText(string Kind, string Subject, string Body, string Because, bool Reminds = false);

/// <summary>The words of every message.</summary>
internal static class Texts
{
    private static readonly LocalDatePattern Date = LocalDatePattern.CreateWithInvariantCulture("d MMM uuuu");

    public static MessageText StageWaits(
        string series,
        string title,
        int lines,
        int stage,
        int stages,
        LocalDate by,
        string? signedBefore
    ) =>
        new(
            stage == 1 ? "batch-opened" : "stage-waits",
            $"{Plural(lines, "item")} to sign off: {title}",
            $"{(signedBefore is null ? $"A batch of {Plural(lines, "item")} under {series} ({title}) was opened." : $"{signedBefore} signed stage {stage - 1} of a batch of {Plural(lines, "item")} under {series} ({title}).")} Stage {stage} of {stages} waits for you, until {Date.Format(by)}. Nothing is destroyed before every stage is signed.",
            $"stage {stage} of {series} is yours to sign"
        );

    public static MessageText StageReminder(
        string series,
        string title,
        int lines,
        int stage,
        LocalDate by,
        bool overdue,
        bool deputy
    ) =>
        new(
            overdue ? "stage-overdue" : "stage-reminder",
            overdue
                ? $"Overdue: {Plural(lines, "item")} to sign off, {title}"
                : $"Until {Date.Format(by)}: {Plural(lines, "item")} to sign off, {title}",
            deputy
                    ? $"Stage {stage} of a batch under {series} ({title}) was to be signed until {Date.Format(by)}. It is overdue, and you may sign it now as the deputy."
                : overdue
                    ? $"Stage {stage} of a batch under {series} ({title}) was to be signed until {Date.Format(by)}. It is overdue."
                : $"Stage {stage} of a batch under {series} ({title}) waits for you until {Date.Format(by)}.",
            deputy
                ? $"you are the deputy for stage {stage} of {series}"
                : $"stage {stage} of {series} is yours to sign",
            Reminds: true
        );

    public static MessageText BatchDone(string series, string title, string result, string? certificate) =>
        new(
            "batch-done",
            $"Carried out: {title}",
            $"The batch under {series} ({title}) was carried out: {result}{(certificate is null ? "" : $" Certificate {certificate} was issued.")}",
            "you opened or signed it"
        );

    public static MessageText Withdrawn(string series, string title, string by, string why) =>
        new(
            "batch-withdrawn",
            $"Withdrawn: {title}",
            $"{by} withdrew the batch under {series} ({title}): {why} Your signature no longer counts; its items are due again.",
            "you had signed it"
        );

    public static MessageText Asked(string by, int items, string title, string question) =>
        new(
            "asked",
            $"{by} asks you about {(items == 1 ? title : Plural(items, "item"))}",
            $"{by} looks through what is due and asks about {(items == 1 ? $"“{title}”" : $"{Plural(items, "item")}, the first of them “{title}”")}: {question}",
            "the batch cannot be signed before you answer"
        );

    public static MessageText Answered(string by, string title, string answer) =>
        new("answered", $"{by} answered about {title}", $"{by} answered about “{title}”: {answer}", "you asked");

    public static MessageText Proposed(string by, string title, string why) =>
        new(
            "proposal",
            $"{by} asks for your agreement",
            $"{title}. {by} says why: {why}",
            "a second person must agree, and you may"
        );

    public static MessageText ReleaseAsked(string matter, string by, long items, long due, string why) =>
        new(
            "release",
            $"{by} asks for your agreement: a release in {matter}",
            $"{by} asks to release {Plural(items, "item")} of {matter}, of which {due.ToString("N0", CultureInfo.InvariantCulture)} become due. {by} says why: {why}",
            "a second member must agree, and you may"
        );

    public static MessageText NoticeReminder(string subject) =>
        new(
            "notice-reminder",
            $"Reminder: {subject}",
            "A notice that was sent to you waits for your acknowledgement. Open it, answer its questions, and keep what it names until you are told otherwise.",
            "you have not acknowledged it yet"
        );

    public static MessageText NoticeEscalation(string custodian, int days) =>
        new(
            "notice-escalation",
            $"{custodian} has not acknowledged a notice",
            $"{custodian} was sent a notice {Plural(days, "day")} ago and has not acknowledged it. Please see that they do.",
            "you are their manager"
        );

    public static MessageText CustodianLeaves(string matter, string custodian, LocalDate on) =>
        new(
            "custodian-leaves",
            $"A custodian of {matter} leaves: {custodian}",
            $"{custodian} leaves on {Date.Format(on)}. Make sure that a hold order keeps their content before the account goes.",
            "you lead the matter"
        );

    public static MessageText Digest(IReadOnlyList<(string Subject, string Body, string Link)> parts) =>
        new(
            "digest",
            $"{Plural(parts.Count, "matter")} of yours this morning",
            string.Join("\n\n", parts.Select(p => $"* {p.Subject}\n  {p.Body}\n  {p.Link}")),
            "these could wait until the morning"
        );

    private static string Plural(long count, string word) =>
        $"{count.ToString("N0", CultureInfo.InvariantCulture)} {word}{(count == 1 ? "" : "s")}";
}
