using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Server.Disposition;

/// <summary>Stages to sign, and what is due and lies in no batch yet.</summary>
internal sealed class DispositionDuties : IDutySource
{
    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked)
    {
        var (caller, db, calendar, cancel) = asked;
        if (!caller.May(Right.SignDisposition))
        {
            return [];
        }

        List<Duty> duties = [];
        foreach (var duty in await SigningDuty.AllAsync(db, calendar, cancel))
        {
            var ruler = duty.Batch.Ruler;
            if (
                !caller.May(Right.SignDisposition, ruler.UnitId)
                || SigningDuty.MayNotSign(duty.Batch, caller, calendar) is not null
            )
            {
                continue;
            }

            var lines = db.BatchLines.Where(l => l.BatchId == duty.Batch.Id);
            var count = await lines.CountAsync(cancel);
            var oldest = await lines.MinAsync(l => l.Item!.DisposableFrom, cancel) ?? asked.Today;
            var former = duty.Batch.SignOffs.OrderBy(s => s.Stage).LastOrDefault();
            duties.Add(
                new(
                    "sign",
                    $"batch-{duty.Batch.Id}-stage-{duty.Number + 1}",
                    $"Sign off {Wording.Plural(count, "item")}: {ruler.Title}",
                    $"{ruler.Code} · you are stage {duty.Number + 1} of "
                        + $"{duty.Stages}{(former is null ? "" : $", {former.PersonName} signed")} · "
                        + $"{Grace(oldest.PlusDays(ruler.GraceDays), asked.Today)}",
                    duty.By,
                    Until(duty.By, asked.Today),
                    $"Look through {Wording.Number(count)}",
                    duty.Link,
                    true
                )
            );
        }

        duties.AddRange(
            (await BatchEndpoints.DueAsync(caller, db, calendar, cancel)).Select(group => new Duty(
                "open-batch",
                $"due-{group.Series.Id}-{group.BlanketId}",
                $"{Wording.Plural(group.Items, "item")} due: {group.Series.Title}",
                $"{group.Series.Code} · {group.Unit} · the oldest since {Wording.Day(group.Oldest)}",
                group.GraceEnds,
                Grace(group.GraceEnds, asked.Today),
                $"See {Wording.Number(group.Items)}",
                group.BlanketId is { } blanket
                    ? $"/schedule/docket?blanket={blanket}"
                    : $"/schedule/docket?due={group.Series.Id}",
                group.GraceEnds < asked.Today
            ))
        );
        return duties;
    }

    private static string Until(LocalDate by, LocalDate today) =>
        NodaTime.Period.DaysBetween(today, by) switch
        {
            < 0 and var past => $"overdue by {Wording.Plural(-past, "day")}",
            0 => "by the end of today",
            var left => $"{Wording.Plural(left, "day")} left",
        };

    private static string Grace(LocalDate by, LocalDate today) =>
        NodaTime.Period.DaysBetween(today, by) switch
        {
            < -730 and var past => $"past grace by {-past / 365} years",
            < 0 and var past => $"past grace by {Wording.Plural(-past, "day")}",
            0 => "grace ends today",
            var left => $"grace ends in {Wording.Plural(left, "day")}",
        };
}
