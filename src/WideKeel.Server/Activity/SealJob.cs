using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>
/// Closes the days that are over: their events become sealed files with their roots in the ledger. Then lets go what is
/// no longer at hand, and whole files whose time is up.
/// </summary>
public sealed class SealJob(IDbContextFactory<WideKeelDb> databases, Writer writer, ArchiveFiles archive, IClock clock)
    : IJob
{
    public static readonly JobKind JobKind = new(
        "seal",
        Lane: "activity",
        MayQueueBehindItself: true,
        Changes: "activity"
    );

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var channels = await db.Channels.AsNoTracking().OrderBy(c => c.Id).ToListAsync(cancel);
        var now = clock.GetCurrentInstant();
        var days = new List<(Channel Channel, LocalDate Day)>();
        foreach (var channel in channels)
        {
            days.AddRange((await OpenDaysAsync(db, channel, now, cancel)).Select(d => (channel, d)));
        }

        long events = 0;
        for (var i = 0; i < days.Count; i++)
        {
            events += await SealAsync(run, days[i].Channel, days[i].Day, cancel);
            await run.ReportAsync(i + 1, days.Count, null, cancel);
        }

        var (gone, held) = (0, 0);
        var holds = await HeldEvents.LoadAsync(db, now.InUtc().Date, cancel);
        foreach (var channel in channels)
        {
            var (went, stayed) = await RemoveAsync(run, channel, holds, now, cancel);
            (gone, held) = (gone + went, held + stayed);
        }

        return string.Create(
                CultureInfo.InvariantCulture,
                $"{days.Count:N0} days with {events:N0} events sealed; {gone:N0} files removed because their time was up"
            )
            + (held == 0 ? "." : string.Create(CultureInfo.InvariantCulture, $", {held:N0} kept for another reason."));
    }

    /// <summary>The days of a channel that are over, its lateness included, with events that no file holds.</summary>
    private static async Task<List<LocalDate>> OpenDaysAsync(
        WideKeelDb db,
        Channel channel,
        Instant now,
        CancellationToken cancel
    )
    {
        var over = (now - Duration.FromHours(channel.LatenessHours)).InUtc().Date;
        var before = Start(over);
        await db.Database.OpenConnectionAsync(cancel);
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        command.CommandText = $"""
            SELECT DISTINCT {EventCounts.Floor("Time", EventCounts.DayMilliseconds)} FROM activity_event
            WHERE ChannelId = $channel AND SegmentId IS NULL AND Time < $before ORDER BY 1
            """;
        command.Parameters.AddWithValue("$channel", channel.Id);
        command.Parameters.AddWithValue("$before", before.ToUnixTimeMilliseconds());
        using var reader = command.ExecuteReader();
        List<LocalDate> days = [];
        while (reader.Read())
        {
            days.Add(Instant.FromUnixTimeMilliseconds(reader.GetInt64(0) * EventCounts.DayMilliseconds).InUtc().Date);
        }

        return days;
    }

    /// <summary>
    /// Seals one day. The file is on disk before the entry says so; a stop between the two leaves a file that the next
    /// run writes anew, with what has come in since.
    /// </summary>
    private async Task<long> SealAsync(JobRun run, Channel channel, LocalDate day, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        await db.Database.OpenConnectionAsync(cancel);
        var events = OpenEvents((SqliteConnection)db.Database.GetDbConnection(), channel, day);
        var number =
            await db
                .Segments.Where(s => s.ChannelId == channel.Id && s.Day == day)
                .MaxAsync(s => (int?)s.Number, cancel) + 1
            ?? 0;
        var (leaves, hash, bytes) = await archive.WriteAsync(channel.Name, day, number, events, cancel);
        var root = new MerkleProver(leaves).Root();
        var segment = new SealedSegment(
            channel.Name,
            day,
            number,
            events.Count,
            events[0].Event.Time,
            events[^1].Event.Time,
            Convert.ToHexStringLower(root),
            hash
        );
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                var row = new Segment
                {
                    ChannelId = channel.Id,
                    Day = day,
                    Number = number,
                    Events = events.Count,
                    First = segment.First,
                    Last = segment.Last,
                    Root = root,
                    FileHash = hash,
                    Bytes = bytes,
                };
                session.Db.Segments.Add(row);
                await session.Db.SaveChangesAsync(cancel);
                Mark(session, row.Id, events);
                session.Record(SealedSegment.Verb, LedgerSubject.Of("channel", channel.Id), after: segment.ToJson());
            },
            cancel
        );
        return events.Count;
    }

    /// <summary>The events of a day that no file holds, in the order of the files.</summary>
    private static List<StoredEvent> OpenEvents(SqliteConnection connection, Channel channel, LocalDate day) =>
        [
            .. EventStore
                .Read(
                    connection,
                    "e.ChannelId = $channel AND e.SegmentId IS NULL AND e.Time >= $from AND e.Time < $to",
                    command =>
                    {
                        command.Parameters.AddWithValue("$channel", channel.Id);
                        command.Parameters.AddWithValue("$from", Start(day).ToUnixTimeMilliseconds());
                        command.Parameters.AddWithValue("$to", Start(day.PlusDays(1)).ToUnixTimeMilliseconds());
                    }
                )
                .OrderBy(e => e.Event.Time)
                .ThenBy(e => e.Event.Id, StringComparer.Ordinal),
        ];

    private static void Mark(WriteSession session, long segment, List<StoredEvent> events)
    {
        using var mark = session.Command(
            "UPDATE activity_event SET SegmentId = $segment WHERE Id IN (SELECT value FROM json_each($ids))"
        );
        mark.Parameters.AddWithValue("$segment", segment);
        mark.Parameters.AddWithValue("$ids", System.Text.Json.JsonSerializer.Serialize(events.Select(e => e.Id)));
        mark.ExecuteNonQuery();
    }

    /// <summary>Lets rows go that are no longer at hand, and files all of whose events are past their time.</summary>
    private async Task<(int Gone, int Held)> RemoveAsync(
        JobRun run,
        Channel channel,
        HeldEvents holds,
        Instant now,
        CancellationToken cancel
    )
    {
        var today = now.InUtc().Date;
        var atHand = today.PlusDays(-channel.DaysAtHand);
        var retention = WideKeel.Core.Time.Period.Parse(channel.Retention).Value;
        await using var db = await databases.CreateDbContextAsync(cancel);
        var over = (
            await db
                .Segments.AsNoTracking()
                .Where(s => s.ChannelId == channel.Id && s.RemovedAt == null)
                .ToListAsync(cancel)
        )
            .Where(s => retention.AddTo(s.Last.InUtc().Date) < today)
            .ToList();
        var held = over.RemoveAll(s => holds.Keep(channel.Name, s.Day));
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                foreach (var day in EventCounts.DaysBefore(session, channel.Id, DayOf(atHand)))
                {
                    RemoveRows(session, channel.Id, day, null);
                }

                foreach (var segment in over)
                {
                    RemoveRows(session, channel.Id, DayOf(segment.Day), segment.Id);
                    await session
                        .Db.Segments.Where(s => s.Id == segment.Id)
                        .ExecuteUpdateAsync(set => set.SetProperty(s => s.RemovedAt, session.Now), cancel);
                    session.Record(
                        SealedSegment.RemovedVerb,
                        LedgerSubject.Of("channel", channel.Id),
                        before: Described(channel, segment).ToJson(),
                        reason: $"Its events are kept for {retention.InWords()}; the last is past that."
                    );
                }
            },
            cancel
        );
        await DeleteFilesAsync(channel, cancel);
        return (over.Count, held);
    }

    /// <summary>
    /// Deletes the files of all segments that were removed, not only of those that this run removed: the row is the intent,
    /// and a stop between the commit and the deletion leaves nothing for ever.
    /// </summary>
    private async Task DeleteFilesAsync(Channel channel, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var removed = await db
            .Segments.AsNoTracking()
            .Where(s => s.ChannelId == channel.Id && s.RemovedAt != null)
            .Select(s => new { s.Day, s.Number })
            .ToListAsync(cancel);
        foreach (var segment in removed.Where(s => archive.Has(channel.Name, s.Day, s.Number)))
        {
            archive.Delete(channel.Name, segment.Day, segment.Number);
        }
    }

    /// <summary>Removes rows of a day whose events sealed files hold, and counts the day anew.</summary>
    /// <param name="day">Days since 1970-01-01.</param>
    /// <param name="segment">Those that it holds; those of all files where it is null.</param>
    private static void RemoveRows(WriteSession session, long channel, long day, long? segment)
    {
        using var remove = session.Command(
            $"""
            DELETE FROM activity_event INDEXED BY {EventSql.ByTime}
            WHERE ChannelId = $channel AND Time >= $from AND Time < $before
                AND SegmentId {(segment is null ? "IS NOT NULL" : "= $segment")}
            """
        );
        remove.Parameters.AddWithValue("$channel", channel);
        remove.Parameters.AddWithValue("$from", day * EventCounts.DayMilliseconds);
        remove.Parameters.AddWithValue("$before", (day + 1) * EventCounts.DayMilliseconds);
        if (segment is not null)
        {
            remove.Parameters.AddWithValue("$segment", segment);
        }

        if (remove.ExecuteNonQuery() > 0)
        {
            EventCounts.Recount(session, channel, day);
        }
    }

    private static long DayOf(LocalDate day) =>
        EventCounts.Floor(Start(day).ToUnixTimeMilliseconds(), EventCounts.DayMilliseconds);

    /// <summary>A stored segment as the ledger has it.</summary>
    internal static SealedSegment Described(Channel channel, Segment segment) =>
        new(
            channel.Name,
            segment.Day,
            segment.Number,
            segment.Events,
            segment.First,
            segment.Last,
            Convert.ToHexStringLower(segment.Root),
            segment.FileHash
        );

    private static Instant Start(LocalDate day) => day.AtStartOfDayInZone(DateTimeZone.Utc).ToInstant();
}

/// <summary>Seals, day by day, what is over.</summary>
internal sealed class DailySealing : IDailyTask
{
    public async Task RunAsync(DailyQuestion asked)
    {
        if (await asked.Session.Db.Channels.AnyAsync(asked.Cancel))
        {
            await JobBoard.AddAsync(
                asked.Session,
                SealJob.JobKind,
                0,
                "Sealing the days that are over",
                null,
                DailyRun.Asker
            );
        }
    }
}
