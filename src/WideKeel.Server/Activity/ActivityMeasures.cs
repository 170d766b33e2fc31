using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.AtRest;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>Whether logs arrive, watches watch, alerts are answered, and sealed days are as they were.</summary>
internal sealed class ActivityMeasures(IClock clock, ArchiveFiles archive) : IMeasureSource
{
    private static readonly Duration Silent = Duration.FromHours(48);
    private static readonly Duration Answer = Duration.FromDays(2);
    private static readonly Duration Month = Duration.FromDays(30);

    public IReadOnlyList<Measure> Measures =>
        [
            new(
                "channels-heard",
                "Channels that are heard",
                "Connected channels from which something came within two days.",
                "operations",
                ChannelsAsync
            ),
            new("watches-on", "Watches that are on", "Watches that are switched on.", "operations", WatchesAsync),
            new(
                "alerts-in-time",
                "Alerts answered in time",
                "Alerts of high severity of the last 30 days that were answered within two days.",
                "operations",
                AlertsAsync
            )
            {
                NothingIsRight = true,
            },
            new(
                "segments-verified",
                "Sealed days are whole",
                "Sealed files whose SHA-256 is the one in the ledger.",
                "operations",
                SegmentsAsync
            )
            {
                IsCostly = true,
            },
        ];

    private async Task<IReadOnlyList<MeasuredSubject>> ChannelsAsync(MeasureQuestion asked)
    {
        var since = clock.GetCurrentInstant() - Silent;
        var channels = await asked
            .Db.Channels.AsNoTracking()
            .Where(c => c.Connected && c.Feed != ChannelFeed.Files)
            .OrderBy(c => c.Title)
            .ToListAsync(asked.Cancel);
        return
        [
            .. channels.Select(c => new MeasuredSubject(
                c.Name,
                c.Title,
                "",
                c.LastReceivedAt > since,
                c.LastReceivedAt is { } at
                    ? $"Something came on {Wording.Day(at.InUtc().Date)}."
                    : "Nothing ever came.",
                "/set-up/channels"
            )),
        ];
    }

    private static async Task<IReadOnlyList<MeasuredSubject>> WatchesAsync(MeasureQuestion asked)
    {
        var watches = await asked.Db.Watches.AsNoTracking().OrderBy(w => w.Name).ToListAsync(asked.Cancel);
        return
        [
            .. watches.Select(w => new MeasuredSubject(
                Wording.Id(w.Id),
                w.Name,
                "",
                w.On,
                w.On ? $"On since {Wording.Day(w.ChangedAt.InUtc().Date)}." : "Off.",
                $"/activity/watches?watch={Wording.Id(w.Id)}"
            )),
        ];
    }

    private async Task<IReadOnlyList<MeasuredSubject>> AlertsAsync(MeasureQuestion asked)
    {
        var now = clock.GetCurrentInstant();
        var since = now - Month;
        var alerts = await asked
            .Db.Alerts.AsNoTracking()
            .Where(a => a.Severity == AlertSeverity.High && a.FoldedInto == null && !a.Withdrawn && a.RaisedAt > since)
            .OrderByDescending(a => a.At)
            .ToListAsync(asked.Cancel);
        return
        [
            .. alerts.Select(a => new MeasuredSubject(
                Wording.Id(a.Id),
                $"Alert {Wording.Id(a.Id)} of {Wording.Day(a.At.InUtc().Date)}",
                "",
                (a.AnsweredAt ?? now) - a.RaisedAt <= Answer,
                a.AnsweredAt is { } at
                    ? $"Answered on {Wording.Day(at.InUtc().Date)}."
                    : $"Open since {Wording.Day(a.RaisedAt.InUtc().Date)}.",
                $"/activity/alerts?alert={Wording.Id(a.Id)}"
            )),
        ];
    }

    private async Task<IReadOnlyList<MeasuredSubject>> SegmentsAsync(MeasureQuestion asked)
    {
        var segments = await (
            from s in asked.Db.Segments
            join c in asked.Db.Channels on s.ChannelId equals c.Id
            where s.RemovedAt == null
            orderby s.Day descending
            select new { Segment = s, Channel = c.Name }
        )
            .AsNoTracking()
            .ToListAsync(asked.Cancel);
        List<MeasuredSubject> all = [];
        foreach (var s in segments)
        {
            var whole = await HashAsync(s.Channel, s.Segment, asked.Cancel) == s.Segment.FileHash;
            all.Add(
                new(
                    Wording.Id(s.Segment.Id),
                    $"{s.Channel}, {Wording.Day(s.Segment.Day)}",
                    "",
                    whole,
                    whole
                        ? $"{Wording.Plural(s.Segment.Events, "event")}, as sealed."
                        : "The file is missing or changed.",
                    "/set-up/channels"
                )
            );
        }

        return all;
    }

    /// <summary>The hash of a segment's file; null where it is not there or cannot be decrypted.</summary>
    private async Task<string?> HashAsync(string channel, Segment segment, CancellationToken cancel)
    {
        try
        {
            using var open = archive.Open(channel, segment.Day, segment.Number);
            if (open is null)
            {
                return null;
            }

            await using var stream = File.OpenRead(open.Path);
            return Convert.ToHexStringLower(await SHA256.HashDataAsync(stream, cancel));
        }
        catch (UnreadableAtRestException)
        {
            return null;
        }
    }
}
