using System.Globalization;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Matters;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>What waits in matters, for their members and for custodians; and what has a date in them.</summary>
internal sealed class MatterDuties : IDutySource
{
    /// <summary>Days ahead that a custodian's leaving is told.</summary>
    private const int LeavingAhead = 30;

    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked) =>
        [.. await OfMattersAsync(asked), .. await NoticesAsync(asked)];

    private static async Task<List<Duty>> OfMattersAsync(DutyQuestion asked)
    {
        var (caller, db, calendar, cancel) = asked;
        var own = caller.Matters.Keys.ToList();
        List<Duty> waiting = [];
        var matters = await db
            .Matters.AsNoTracking()
            .Where(m => own.Contains(m.Id) && m.State != MatterState.Deleted && m.State != MatterState.Closed)
            .OrderBy(m => m.Id)
            .ToListAsync(cancel);
        var latest = (await NoticeEndpoints.LatestCopiesAsync(db, own, cancel)).ToLookup(c => c.Notice!.MatterId);
        foreach (var matter in matters)
        {
            var part = caller.Matters[matter.Id];
            waiting.AddRange(await ReleasesAsync(matter, asked));
            if (part == MemberPart.Lead)
            {
                waiting.AddRange(await DraftsAsync(matter, asked));
            }

            if (Silent(matter, latest[matter.Id], calendar) is { } silent)
            {
                waiting.Add(silent);
            }

            waiting.AddRange(await LeaversAsync(matter, asked));
            if (part >= MemberPart.Reviewer)
            {
                waiting.AddRange(await FoundPlacesAsync(matter, asked));
            }
        }

        return waiting;
    }

    private static string Link(Matter matter) => $"/matters/{Wording.Id(matter.Id)}";

    private static async Task<IEnumerable<Duty>> ReleasesAsync(Matter matter, DutyQuestion asked) =>
        (await ReleaseEndpoints.ViewsAsync(matter.Id, asked.Caller, asked.Db, asked.Calendar, asked.Cancel))
            .Where(r => r.MayDecide)
            .Select(release => new Duty(
                "release",
                $"release-{release.Id}",
                $"Agree to a release of {Wording.Number(release.Items)} items: {matter.Name}",
                $"{matter.Number} · order {release.Order} · asked by {release.AskedBy}",
                null,
                $"since {Wording.Day(asked.Calendar.DateOf(release.AskedAt))}",
                "See what it does",
                $"{Link(matter)}?tab=orders&release={release.Id}",
                true
            ));

    private static async Task<IEnumerable<Duty>> DraftsAsync(Matter matter, DutyQuestion asked) =>
        (
            await asked
                .Db.HoldOrders.AsNoTracking()
                .Where(o => o.MatterId == matter.Id && o.State == OrderState.Draft)
                .ToListAsync(asked.Cancel)
        ).Select(draft => new Duty(
            "order",
            $"order-{draft.Id}",
            $"Hold order not in force: {draft.Name}",
            $"{matter.Number} · order {draft.Number} keeps nothing yet",
            null,
            "no date",
            "See what it holds",
            $"{Link(matter)}?tab=orders&order={draft.Id}",
            false
        ));

    /// <summary>Custodians who have not acknowledged; null where all have.</summary>
    private static Duty? Silent(Matter matter, IEnumerable<NoticeCopy> latest, OrganisationCalendar calendar)
    {
        var silent = latest.Where(c => c is { AcknowledgedAt: null, Notice.Kind: NoticeKind.Hold }).ToList();
        if (silent.Count == 0)
        {
            return null;
        }

        var days = silent.Max(c => NoticeRules.Outstanding(calendar.DateOf(c.SentAt), calendar.Today));
        return new(
            "notice",
            $"silent-{matter.Id}",
            $"{Wording.Number(silent.Count)} custodian{(silent.Count == 1 ? " has" : "s have")} not "
                + $"acknowledged: {matter.Name}",
            $"{matter.Number} · the longest for {days} days",
            null,
            "no date",
            "See who",
            $"{Link(matter)}?tab=custodians",
            days >= 14
        );
    }

    private static async Task<IEnumerable<Duty>> LeaversAsync(Matter matter, DutyQuestion asked)
    {
        var today = asked.Calendar.Today;
        return (
            await asked
                .Db.Custodians.AsNoTracking()
                .Include(c => c.Person)
                .Where(c =>
                    c.MatterId == matter.Id
                    && c.Person!.LeavesOn >= today
                    && c.Person.LeavesOn <= today.PlusDays(LeavingAhead)
                )
                .ToListAsync(asked.Cancel)
        ).Select(leaver => new Duty(
            "custodian",
            $"custodian-{leaver.Id}-leaves",
            $"{leaver.Person!.Name} leaves: {matter.Name}",
            $"{matter.Number} · keep their content before the account goes",
            leaver.Person.LeavesOn,
            $"leaves {Wording.Day(leaver.Person.LeavesOn!.Value)}",
            "Open the matter",
            $"{Link(matter)}?tab=custodians",
            false
        ));
    }

    /// <summary>Places that appeared and carry a custodian's name: somebody decides whose they are.</summary>
    private static async Task<IEnumerable<Duty>> FoundPlacesAsync(Matter matter, DutyQuestion asked)
    {
        var found = await (
            from place in asked.Db.FoundPlaces
            join container in asked.Db.Containers on place.ContainerId equals container.Id
            where place.IsTheirs == null && place.Custodian!.MatterId == matter.Id
            orderby place.FoundOn, container.Name
            select new
            {
                place.CustodianId,
                place.ContainerId,
                place.FoundOn,
                Person = place.Custodian!.Person!.Name,
                Place = container.Name,
            }
        ).ToListAsync(asked.Cancel);
        return found.Select(f => new Duty(
            "custodian",
            $"place-{Wording.Id(f.CustodianId)}-{Wording.Id(f.ContainerId)}",
            $"A new place of {f.Person}: {f.Place}",
            $"{matter.Number} · counts as theirs until somebody decides",
            null,
            $"since {Wording.Day(f.FoundOn)}",
            "Decide",
            $"{Link(matter)}?tab=custodians",
            true
        ));
    }

    /// <summary>Notices that the caller has not acknowledged, as a custodian.</summary>
    private static async Task<List<Duty>> NoticesAsync(DutyQuestion asked)
    {
        var (caller, db, calendar, cancel) = asked;
        var copies = await db
            .NoticeCopies.AsNoTracking()
            .Include(c => c.Notice)
            .Where(c =>
                c.Custodian!.Person!.Mail == caller.Mail
                && db.Matters.Any(m => m.Id == c.Notice!.MatterId && m.State != MatterState.Deleted)
            )
            .ToListAsync(cancel);
        return
        [
            .. copies
                .GroupBy(c => c.Notice!.MatterId)
                .Select(g => g.MaxBy(c => c.Notice!.Version)!)
                .Where(c => c is { AcknowledgedAt: null, Notice.Kind: NoticeKind.Hold })
                .Select(c => new Duty(
                    "notice",
                    $"notice-{c.Id}",
                    "A notice waits for your acknowledgement",
                    $"sent {Wording.Day(calendar.DateOf(c.SentAt))} by {c.Notice!.IssuedBy}",
                    null,
                    "as soon as you can",
                    "Read it",
                    "/notices",
                    true
                )),
        ];
    }

    /// <summary>Days of the caller's matters that belong into a calendar.</summary>
    public async Task<IReadOnlyList<CalendarDay>> DaysAsync(DutyQuestion asked)
    {
        var (caller, db, calendar, cancel) = asked;
        var own = caller.Matters.Keys.ToList();
        var today = calendar.Today;
        var numbers = await db
            .Matters.AsNoTracking()
            .Where(m => own.Contains(m.Id))
            .ToDictionaryAsync(m => m.Id, m => m.Number, cancel);
        return
        [
            .. (
                await db
                    .HoldReleases.AsNoTracking()
                    .Where(r => own.Contains(r.MatterId) && r.State == ReleaseState.Agreed && r.Through >= today)
                    .ToListAsync(cancel)
            ).Select(r => LastToUndo(r, numbers[r.MatterId])),
            .. (
                await db
                    .MatterBundles.AsNoTracking()
                    .Where(b => own.Contains(b.MatterId) && b.State == RunState.Done && b.DeletedAt == null)
                    .ToListAsync(cancel)
            ).Select(b => Goes(b, numbers[b.MatterId])),
            .. (
                await db
                    .Custodians.AsNoTracking()
                    .Include(c => c.Person)
                    .Where(c => own.Contains(c.MatterId) && c.Person!.LeavesOn >= today)
                    .ToListAsync(cancel)
            ).Select(c => Leaves(c, numbers[c.MatterId])),
            .. (await NoticeEndpoints.LatestCopiesAsync(db, own, cancel))
                .Where(c =>
                    c
                        is {
                            AcknowledgedAt: null,
                            Notice: { Kind: NoticeKind.Hold, EscalateDays: > 0 },
                            EscalatedAt: null
                        }
                )
                .Select(c => Escalates(c, numbers[c.Notice!.MatterId], calendar)),
        ];
    }

    private static CalendarDay LastToUndo(HoldRelease release, string matter) =>
        new(
            $"release-{release.Id}",
            release.Through!.Value,
            $"Last day to undo a release in {matter}",
            $"/matters/{release.MatterId}?tab=orders"
        );

    private static CalendarDay Goes(MatterBundle bundle, string matter) =>
        new(
            $"matter-bundle-{bundle.Id}",
            bundle.KeepThrough,
            $"Bundle “{bundle.Name}” of {matter} goes after this day",
            $"/matters/{bundle.MatterId}?tab=bundles"
        );

    private static CalendarDay Leaves(Custodian custodian, string matter) =>
        new(
            $"custodian-{custodian.Id}-leaves",
            custodian.Person!.LeavesOn!.Value,
            $"{custodian.Person.Name}, custodian of {matter}, leaves",
            $"/matters/{custodian.MatterId}?tab=custodians"
        );

    private static CalendarDay Escalates(NoticeCopy copy, string matter, OrganisationCalendar calendar) =>
        new(
            $"notice-{copy.Id}-escalates",
            calendar.DateOf(copy.SentAt).PlusDays(copy.Notice!.EscalateDays),
            $"{copy.Custodian!.Person!.Name}’s manager is notified: no acknowledgement in {matter}",
            $"/matters/{copy.Notice.MatterId}?tab=custodians"
        );
}
