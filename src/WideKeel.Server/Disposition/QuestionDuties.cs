namespace WideKeel.Server.Disposition;

/// <summary>Questions about items of a batch that wait for the caller's answer.</summary>
internal sealed class QuestionDuties : IDutySource
{
    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked) =>
        [
            .. (await QuestionEndpoints.WaitingForAsync(asked.Caller, asked.Db, asked.Cancel)).Select(q => new Duty(
                "question",
                $"question-{q.Id}",
                $"{q.AskedBy} asks about “{q.Item}”",
                q.Text,
                null,
                $"since {Wording.Day(asked.Calendar.DateOf(q.At))}",
                "Answer",
                "/",
                true
            )),
        ];
}
