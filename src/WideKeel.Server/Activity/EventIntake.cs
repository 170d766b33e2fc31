using System.Collections.Concurrent;
using System.Globalization;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>A line that was read, or why it could not be.</summary>
/// <param name="Number">In its file, request or connection, from 1.</param>
public readonly record struct ReadLine(long Number, string Original, Outcome<ActivityEvent> Event);

/// <param name="Line">In what was sent, from 1.</param>
public sealed record RejectedView(long Line, string Reason, string Beginning);

/// <summary>What became of lines that were sent.</summary>
/// <param name="Duplicates">Their ids were there already.</param>
/// <param name="NotAdmitted">The channel does not admit them.</param>
/// <param name="TooOld">Their time in the channel is over already.</param>
/// <param name="Refused">The first thousand of the rejected lines.</param>
public sealed record IntakeAnswer(
    long Lines,
    long Taken,
    long Duplicates,
    long NotAdmitted,
    long TooOld,
    long Rejected,
    IReadOnlyList<RejectedView> Refused
)
{
    public static IntakeAnswer Nothing { get; } = new(0, 0, 0, 0, 0, 0, []);
}

/// <summary>
/// Takes events in: admits them, derives what arrival derives, writes them in portions. What it answered for is on disk;
/// the same lines again add nothing.
/// </summary>
public sealed class EventIntake(IDbContextFactory<WideKeelDb> databases, PlaceBook places, Writer writer, IClock clock)
{
    private static readonly int Portion = Portions.Or(2_000);
    private const int MostRejected = 1_000;
    private const int BeginningCharacters = 200;

    /// <summary>A clock may be so far ahead; a line from further in the future is rejected.</summary>
    private static readonly Duration MostAhead = Duration.FromDays(1);

    /// <summary>Two senders of one channel take turns, so that its counts are right.</summary>
    private readonly ConcurrentDictionary<long, SemaphoreSlim> turns = new();

    /// <param name="from">The file, or how it comes; it stands with rejected lines.</param>
    /// <param name="fits">Which events are wanted at all; null for all. Others are passed over without a word.</param>
    public async Task<IntakeAnswer> TakeAsync(
        long channelId,
        string from,
        IAsyncEnumerable<ReadLine> lines,
        Func<ActivityEvent, bool>? fits,
        CancellationToken cancel
    )
    {
        var turn = turns.GetOrAdd(channelId, _ => new(1, 1));
        await turn.WaitAsync(cancel);
        try
        {
            await using var db = await databases.CreateDbContextAsync(cancel);
            var channel = await db.Channels.AsNoTracking().SingleAsync(c => c.Id == channelId, cancel);
            var arrival = await Arrival.LoadAsync(db, channel, await places.OfAsync(db, cancel), clock, cancel);
            var answer = IntakeAnswer.Nothing;
            List<ReadLine> portion = [];
            await foreach (var line in lines.WithCancellation(cancel))
            {
                portion.Add(line);
                if (portion.Count == Portion)
                {
                    answer = await WriteAsync(channel, from, portion, arrival, fits, answer);
                    portion.Clear();
                }
            }

            return portion.Count == 0 ? answer : await WriteAsync(channel, from, portion, arrival, fits, answer);
        }
        finally
        {
            turn.Release();
        }
    }

    private async Task<IntakeAnswer> WriteAsync(
        Channel channel,
        string from,
        List<ReadLine> portion,
        Arrival arrival,
        Func<ActivityEvent, bool>? fits,
        IntakeAnswer before
    )
    {
        var now = clock.GetCurrentInstant();
        var (admitted, rejected, notAdmitted, tooOld) = Sort(portion, arrival, fits, now);
        long taken = 0;
        await writer.RunAsync(
            LedgerActor.Job("intake", null),
            async session =>
            {
                taken = EventStore.Add(session, channel.Id, admitted).LongCount(a => a);
                var row = await session.Db.Channels.SingleAsync(c => c.Id == channel.Id);
                (row.Taken, row.Duplicates) = (row.Taken + taken, row.Duplicates + admitted.Count - taken);
                (row.NotAdmitted, row.TooOld) = (row.NotAdmitted + notAdmitted, row.TooOld + tooOld);
                row.Rejected += rejected.Count;
                Note(row, admitted, now);
                await KeepRejectedAsync(session, row, from, rejected);
            }
        );
        return new(
            before.Lines + portion.Count,
            before.Taken + taken,
            before.Duplicates + admitted.Count - taken,
            before.NotAdmitted + notAdmitted,
            before.TooOld + tooOld,
            before.Rejected + rejected.Count,
            [.. before.Refused.Concat(rejected).Take(MostRejected)]
        );
    }

    /// <summary>What of a portion is admitted, and what becomes of the rest.</summary>
    private static (
        List<(ActivityEvent Event, long UnitId)> Admitted,
        List<RejectedView> Rejected,
        long NotAdmitted,
        long TooOld
    ) Sort(List<ReadLine> portion, Arrival arrival, Func<ActivityEvent, bool>? fits, Instant now)
    {
        List<RejectedView> rejected = [];
        List<(ActivityEvent, long)> admitted = [];
        long notAdmitted = 0,
            tooOld = 0;
        foreach (var line in portion)
        {
            var arrived = line.Event.Refused ? line.Event : Arrival.Check(line.Event.Value, now);
            if (arrived.Refusal is { } refusal)
            {
                rejected.Add(new(line.Number, refusal.Sentence, Beginning(line.Original)));
            }
            else if (fits?.Invoke(arrived.Value) == false)
            {
                continue;
            }
            else if (arrival.IsTooOld(arrived.Value, now))
            {
                tooOld++;
            }
            else if (!arrival.Admits(arrived.Value))
            {
                notAdmitted++;
            }
            else
            {
                admitted.Add(arrival.Derive(arrived.Value, now));
            }
        }

        return (admitted, rejected, notAdmitted, tooOld);
    }

    /// <summary>Notes on the channel when it last heard of something, and by how much the source's clock differs.</summary>
    private static void Note(Channel row, List<(ActivityEvent Event, long UnitId)> admitted, Instant now)
    {
        if (admitted.Count == 0)
        {
            return;
        }

        row.LastReceivedAt = now;
        row.LastEventAt =
            admitted.Max(e => e.Event.Time) is var last && last > row.LastEventAt ? last : row.LastEventAt ?? last;
        row.SkewMilliseconds = (long)Tail.Median(admitted.Select(e => (now - e.Event.Time).TotalMilliseconds));
    }

    private static async Task KeepRejectedAsync(
        WriteSession session,
        Channel channel,
        string from,
        List<RejectedView> rejected
    )
    {
        if (rejected.Count == 0)
        {
            return;
        }

        session.Db.RejectedLines.AddRange(
            rejected
                .TakeLast(MostRejected)
                .Select(r => new RejectedLine
                {
                    ChannelId = channel.Id,
                    At = session.Now,
                    Line = r.Line,
                    From = from,
                    Reason = r.Reason,
                    Beginning = r.Beginning,
                })
        );
        await session.Db.SaveChangesAsync();
        var kept = await session
            .Db.RejectedLines.Where(r => r.ChannelId == channel.Id)
            .OrderByDescending(r => r.Id)
            .Select(r => r.Id)
            .Skip(MostRejected - 1)
            .FirstOrDefaultAsync();
        await session.Db.RejectedLines.Where(r => r.ChannelId == channel.Id && r.Id < kept).ExecuteDeleteAsync();
    }

    private static string Beginning(string line) =>
        line.Length <= BeginningCharacters ? line : line[..BeginningCharacters] + "…";

    /// <summary>What an event is held against, and what it is given, when it arrives at one channel.</summary>
    private sealed class Arrival
    {
        private readonly Channel channel;
        private readonly Func<ActivityEvent, bool> admits;
        private readonly NamedNetworks networks;
        private readonly PlaceTable places;
        private readonly Dictionary<string, (string Unit, string Title)> people;
        private readonly Dictionary<string, long> units;
        private readonly long root;
        private readonly WideKeel.Core.Time.Period retention;

        private Arrival(
            Channel channel,
            Func<ActivityEvent, bool> admits,
            NamedNetworks networks,
            PlaceTable places,
            Dictionary<string, (string, string)> people,
            (Dictionary<string, long> ByName, long Root) units
        )
        {
            (this.channel, this.admits, this.networks, this.places) = (channel, admits, networks, places);
            (this.people, this.units, root) = (people, units.ByName, units.Root);
            retention = WideKeel.Core.Time.Period.Parse(channel.Retention).Value;
        }

        public static async Task<Arrival> LoadAsync(
            WideKeelDb db,
            Channel channel,
            PlaceTable places,
            IClock clock,
            CancellationToken cancel
        )
        {
            var rules = JsonSerializer.Deserialize<AdmissionRules>(channel.Admits, Json.Options) ?? new();
            var networks = await db.Networks.AsNoTracking().OrderBy(n => n.Id).ToListAsync(cancel);
            var people = await db.DirectoryPeople.AsNoTracking().ToListAsync(cancel);
            var units = await db.Units.AsNoTracking().OrderBy(u => u.Path.Length).ToListAsync(cancel);
            return new(
                channel,
                rules.Compile(clock.GetCurrentInstant().InUtc().Date).Value,
                new(networks.Select(NetworkEndpoints.Named)),
                places,
                people.ToDictionary(p => p.Mail, p => (p.Unit, p.Title), StringComparer.OrdinalIgnoreCase),
                (
                    units
                        .GroupBy(u => u.Name, StringComparer.OrdinalIgnoreCase)
                        .ToDictionary(g => g.Key, g => g.First().Id, StringComparer.OrdinalIgnoreCase),
                    units[0].Id
                )
            );
        }

        /// <summary>The event, or why it cannot be one.</summary>
        public static Outcome<ActivityEvent> Check(ActivityEvent e, Instant now)
        {
            if (e.Time > now + MostAhead)
            {
                return new Refusal(
                    "time-ahead",
                    "time",
                    $"It is dated {EventLine.Text(e.Time)}, more than a day ahead: is the source’s clock right?"
                );
            }

            if (e.Id.Length > 400)
            {
                return new Refusal("id-too-long", "id", "Its id has more than 400 characters.");
            }

            try
            {
                EventLine.LeafOf(e);
                return e;
            }
            catch (Exception x) when (x is ArgumentException or FormatException or InvalidOperationException)
            {
                return new Refusal("line-malformed", null, $"It cannot be written as RFC 8785 asks: {x.Message}");
            }
        }

        public bool IsTooOld(ActivityEvent e, Instant now) => retention.AddTo(e.Time.InUtc().Date) < now.InUtc().Date;

        public bool Admits(ActivityEvent e) => admits(e);

        public (ActivityEvent, long) Derive(ActivityEvent e, Instant now)
        {
            var actor = e.Actor?.Contains('@', StringComparison.Ordinal) == true ? e.Actor.ToLowerInvariant() : e.Actor;
            var known = actor is not null && people.TryGetValue(actor, out var found) ? found : ((string, string)?)null;
            var unit = known?.Item1 is { Length: > 0 } named && units.TryGetValue(named, out var id) ? id : root;
            return (
                e with
                {
                    Actor = actor,
                    ActorKind = e.ActorKind == ActorKind.Unknown && known is not null ? ActorKind.Person : e.ActorKind,
                    Category = e.Category ?? EventActions.CategoryOf(e.Action),
                    Channel = channel.Name,
                    Received = now,
                    Network = networks.Of(e.Address)?.Name,
                    Place = e.Place ?? places.Of(e.Address),
                    Unit = known?.Item1 is { Length: > 0 } u ? u : null,
                    Title = known?.Item2 is { Length: > 0 } t ? t : null,
                },
                unit
            );
        }
    }
}
