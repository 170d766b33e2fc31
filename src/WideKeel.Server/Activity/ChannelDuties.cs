using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.People;

namespace WideKeel.Server.Activity;

/// <summary>Channels that fell silent, or rejected lines, for those who answer for them.</summary>
internal sealed class ChannelDuties(IClock clock) : IDutySource
{
    /// <summary>A log that brought something every day and nothing for so long is likely broken.</summary>
    private static readonly Duration Silent = Duration.FromHours(48);

    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked)
    {
        if (!asked.Caller.May(Right.ManageChannels))
        {
            return [];
        }

        var since = clock.GetCurrentInstant() - Silent;
        var channels = await asked
            .Db.Channels.AsNoTracking()
            .Where(c =>
                c.Connected && c.Feed != ChannelFeed.Files && c.LastReceivedAt != null && c.LastReceivedAt < since
            )
            .OrderBy(c => c.Title)
            .ToListAsync(asked.Cancel);
        return
        [
            .. channels.Select(c => new Duty(
                "channel",
                $"channel-{Wording.Id(c.Id)}",
                $"{c.Title} fell silent",
                $"Nothing came from it since {Wording.Day(c.LastReceivedAt!.Value.InUtc().Date)}; while it is silent, nothing is watched.",
                null,
                "for two days",
                "Look at the channel",
                "/set-up/channels",
                false
            )),
        ];
    }
}
