using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Store.Jobs;

namespace WideKeel.Server.Jobs;

/// <summary>Work that failed and was not done since.</summary>
internal sealed class JobDuties : IDutySource
{
    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked)
    {
        var (caller, db, _, cancel) = asked;
        if (!caller.May(Right.ReadSources))
        {
            return [];
        }

        List<Duty> duties = [];
        var failed = await db
            .Jobs.AsNoTracking()
            .Where(j =>
                j.MatterId == null
                && j.State == JobState.Failed
                && !db.Jobs.Any(x =>
                    x.Kind == j.Kind && x.SubjectId == j.SubjectId && x.Id > j.Id && x.State == JobState.Done
                )
            )
            .OrderByDescending(j => j.Id)
            .Take(5)
            .ToListAsync(cancel);
        duties.AddRange(
            failed.Select(j => new Duty(
                "failed",
                $"failed-{j.Id}",
                $"Failed: {j.Title}",
                j.Message ?? "",
                null,
                "no date",
                "Open sources",
                "/set-up/sources",
                true
            ))
        );
        return duties;
    }
}
