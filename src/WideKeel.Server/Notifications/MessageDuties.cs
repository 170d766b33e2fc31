using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;

namespace WideKeel.Server.Notifications;

/// <summary>Messages that cannot be delivered.</summary>
internal sealed class MessageDuties : IDutySource
{
    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked)
    {
        var (caller, db, _, cancel) = asked;
        if (!caller.May(Right.ReadSources))
        {
            return [];
        }

        List<Duty> duties = [];
        if (
            await db.Messages.CountAsync(m => m.MatterId == null && m.SentAt == null && m.Failure != null, cancel)
                + await db.Deliveries.CountAsync(d => d.SentAt == null && d.Failure != null, cancel)
            is var stuck
                and > 0
        )
        {
            duties.Add(
                new(
                    "undelivered",
                    "undelivered",
                    $"{Wording.Plural(stuck, "message")} could not be delivered",
                    "They are tried again, later each time",
                    null,
                    "no date",
                    "See why",
                    "/set-up/messages",
                    false
                )
            );
        }
        return duties;
    }
}
