using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Matters;
using WideKeel.Server.Notifications;
using WideKeel.Store;
using WideKeel.Store.Matters;
using WideKeel.Store.People;

namespace WideKeel.Server.Matters;

/// <summary>
/// A matter's morning: reminders, escalations, custodians about to leave, bundles and released holds past their time.
/// </summary>
internal sealed class MatterDailyTask(WideKeelOptions options) : IDailyTask
{
    /// <summary>So many days ahead the leads are told that a custodian leaves.</summary>
    private static readonly int[] LeavingDays = [14, 3, 0];

    public async Task RunAsync(DailyQuestion asked)
    {
        var (session, _, calendar, cancel) = asked;
        var today = asked.Today;
        var matters = await session
            .Db.Matters.Where(m => m.State == MatterState.Open || m.State == MatterState.Closing)
            .ToListAsync(cancel);
        foreach (var matter in matters)
        {
            await RemindAsync(session, matter, today, calendar, cancel);
            await WarnOfLeaversAsync(session, matter, today, cancel);
        }

        foreach (
            var bundle in await session
                .Db.MatterBundles.Where(b => b.State == RunState.Done && b.DeletedAt == null && b.KeepThrough < today)
                .ToListAsync(cancel)
        )
        {
            MatterBundleEndpoints.LetGo(session, bundle, options);
        }

        // They protect no longer; what they were is in the ledger and in the release.
        await session.Db.HoldItems.Where(h => h.Until < today).ExecuteDeleteAsync(cancel);
    }

    private static async Task RemindAsync(
        WriteSession session,
        Matter matter,
        LocalDate today,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var latest = (await NoticeEndpoints.LatestCopiesAsync(session.Db, [matter.Id], cancel))
            .Where(c => c is { AcknowledgedAt: null, Notice.Kind: NoticeKind.Hold })
            .Select(c => c.Id)
            .ToList();
        foreach (
            var copy in await session
                .Db.NoticeCopies.Include(c => c.Notice)
                .Include(c => c.Custodian!.Person)
                .Where(c => latest.Contains(c.Id))
                .ToListAsync(cancel)
        )
        {
            var sent = calendar.DateOf(copy.SentAt);
            var (notice, person) = (copy.Notice!, copy.Custodian!.Person!);
            if (
                NoticeRules.Reminds(
                    sent,
                    notice.RemindDays,
                    copy.RemindedAt is { } last ? calendar.DateOf(last) : null,
                    today
                )
            )
            {
                await NoticeEndpoints.SendReminderAsync(session, copy, matter, cancel);
                session.Record(
                    "notice-reminded",
                    MatterDoor.Subject(matter.Id),
                    after: new JsonObject { ["custodian"] = person.Name, ["version"] = notice.Version }
                );
            }

            if (NoticeRules.Escalates(sent, notice.EscalateDays, copy.EscalatedAt is not null, today))
            {
                copy.EscalatedAt = session.Now;
                await EscalateAsync(session, matter.Id, person, NoticeRules.Outstanding(sent, today), cancel);
            }
        }
    }

    /// <param name="days">For which the notice has not been acknowledged.</param>
    private static async Task EscalateAsync(
        WriteSession session,
        long matter,
        DirectoryPerson person,
        int days,
        CancellationToken cancel
    )
    {
        var manager = await session.Db.DirectoryPeople.SingleOrDefaultAsync(p => p.Mail == person.Manager, cancel);
        if (manager is not null)
        {
            Outbox.Send(session, manager, matter, MatterTexts.NoticeEscalation(person.Name, days), "/notices");
        }

        session.Record(
            "notice-escalated",
            MatterDoor.Subject(matter),
            after: new JsonObject { ["custodian"] = person.Name, ["manager"] = manager?.Name }
        );
    }

    private static async Task WarnOfLeaversAsync(
        WriteSession session,
        Matter matter,
        LocalDate today,
        CancellationToken cancel
    )
    {
        foreach (
            var custodian in await session
                .Db.Custodians.Include(c => c.Person)
                .Where(c => c.MatterId == matter.Id && c.Person!.LeavesOn >= today)
                .ToListAsync(cancel)
        )
        {
            if (LeavingDays.Contains(NodaTime.Period.DaysBetween(today, custodian.Person!.LeavesOn!.Value)))
            {
                foreach (
                    var lead in await ReleaseEndpoints.MembersAsync(session.Db, matter.Id, MemberPart.Lead, cancel)
                )
                {
                    Outbox.Add(
                        session,
                        lead,
                        MatterTexts.CustodianLeaves(
                            matter.Number,
                            custodian.Person.Name,
                            custodian.Person.LeavesOn.Value
                        ),
                        $"/matters/{matter.Id}?tab=custodians",
                        matter.Id
                    );
                }
            }
        }
    }
}
