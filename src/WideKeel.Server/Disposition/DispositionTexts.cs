using NodaTime;
using WideKeel.Server.Notifications;
using WideKeel.Store.Disposition;

namespace WideKeel.Server.Disposition;

/// <summary>What messages about batches say.</summary>
internal static class DispositionTexts
{
    public static MessageText StageWaits(SigningDuty duty, int lines, string? signedBefore)
    {
        var (series, title, stage, stages, by) = Parts(duty);
        var batch = $"batch of {Wording.Plural(lines, "item")} under {series} ({title})";
        var before = signedBefore is null
            ? $"A {batch} was opened."
            : $"{signedBefore} signed stage {stage - 1} of a {batch}.";
        return new(
            stage == 1 ? "batch-opened" : "stage-waits",
            $"{Wording.Plural(lines, "item")} to sign off: {title}",
            $"{before} Stage {stage} of {stages} waits for you, until {Wording.Day(by)}. "
                + "Nothing is destroyed before every stage is signed.",
            $"stage {stage} of {series} is yours to sign"
        );
    }

    public static MessageText StageReminder(SigningDuty duty, int lines, bool overdue, bool deputy)
    {
        var (series, title, stage, _, by) = Parts(duty);
        return new(
            overdue ? "stage-overdue" : "stage-reminder",
            overdue
                ? $"Overdue: {Wording.Plural(lines, "item")} to sign off, {title}"
                : $"Until {Wording.Day(by)}: {Wording.Plural(lines, "item")} to sign off, {title}",
            deputy
                    ? $"Stage {stage} of a batch under {series} ({title}) was to be signed until "
                        + $"{Wording.Day(by)}. It is overdue, and you may sign it now as the deputy."
                : overdue
                    ? $"Stage {stage} of a batch under {series} ({title}) was to be signed until {Wording.Day(by)}. It is overdue."
                : $"Stage {stage} of a batch under {series} ({title}) waits for you until {Wording.Day(by)}.",
            deputy
                ? $"you are the deputy for stage {stage} of {series}"
                : $"stage {stage} of {series} is yours to sign",
            Reminds: true
        );
    }

    public static MessageText BatchDone(string series, string title, string result, string? certificate) =>
        new(
            "batch-done",
            $"Carried out: {title}",
            $"The batch under {series} ({title}) was carried out: "
                + $"{result}{(certificate is null ? "" : $" Certificate {certificate} was issued.")}",
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
            $"{by} asks you about {(items == 1 ? title : Wording.Plural(items, "item"))}",
            $"{by} looks through what is due and asks about "
                + $"{(items == 1 ? $"“{title}”" : $"{Wording.Plural(items, "item")}, the first of them “{title}”")}: "
                + $"{question}",
            "the batch cannot be signed before you answer"
        );

    public static MessageText Answered(string by, string title, string answer) =>
        new("answered", $"{by} answered about {title}", $"{by} answered about “{title}”: {answer}", "you asked");

    /// <summary>What came of a line whose file was not destroyed, in words.</summary>
    public static string OutcomeOf(string state) =>
        state switch
        {
            nameof(LineState.Refiled) => "re-filed",
            nameof(LineState.Extended) => "extended",
            nameof(LineState.DroppedOut) => "dropped out",
            _ => "failed",
        };

    private static (string Series, string Title, int Stage, int Stages, LocalDate By) Parts(SigningDuty duty) =>
        (duty.Batch.Ruler.Code, duty.Batch.Ruler.Title, duty.Number + 1, duty.Stages, duty.By);
}
