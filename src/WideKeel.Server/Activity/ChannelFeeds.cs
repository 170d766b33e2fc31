using System.Runtime.CompilerServices;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Activity;
using WideKeel.Store.Ledger;

namespace WideKeel.Server.Activity;

/// <summary>Looks into watched folders, and into the ledger, and takes in what is new there.</summary>
public sealed class ChannelFeeds(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    EventIntake intake,
    WideKeelOptions options,
    Troubles troubles,
    ILogger<ChannelFeeds> log
) : BackgroundService
{
    private const int MostEntries = 5_000;
    private static readonly TimeSpan Look = TimeSpan.FromSeconds(2);
    private static readonly SemaphoreSlim Turn = new(1, 1);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Look);
        do
        {
            await LookAsync(stoppingToken);
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }

    /// <summary>Looks once into everything that is watched.</summary>
    internal async Task LookAsync(CancellationToken cancel)
    {
        await Turn.WaitAsync(cancel);
        try
        {
            await using var db = await databases.CreateDbContextAsync(cancel);
            var channels = await db
                .Channels.AsNoTracking()
                .Where(c => c.Connected && (c.Feed == ChannelFeed.Folder || c.Feed == ChannelFeed.Ledger))
                .ToListAsync(cancel);
            foreach (var channel in channels)
            {
                try
                {
                    await (
                        channel.Feed == ChannelFeed.Folder
                            ? FolderAsync(db, channel, cancel)
                            : LedgerAsync(db, channel, cancel)
                    );
                }
                catch (Exception e) when (e is not OperationCanceledException)
                {
                    log.LogError(e, "Channel {Channel} could not be fed", channel.Name);
                }
            }
        }
        finally
        {
            Turn.Release();
        }
    }

    /// <summary>
    /// Reads what has grown. Half a line at the end waits for its other half; a table is read whole once it stands
    /// still, because its head says what its rows are.
    /// </summary>
    private async Task FolderAsync(WideKeelDb db, Channel channel, CancellationToken cancel)
    {
        if (!MayRead(channel))
        {
            return;
        }

        var known = await db
            .WatchedFiles.AsNoTracking()
            .Where(f => f.ChannelId == channel.Id)
            .ToDictionaryAsync(f => f.Path, cancel);
        foreach (
            var file in new DirectoryInfo(channel.Folder).EnumerateFiles().OrderBy(f => f.Name, StringComparer.Ordinal)
        )
        {
            var before = known.GetValueOrDefault(file.Name);
            if (file.Name.EndsWith(".tmp", StringComparison.Ordinal) || file.Length <= (before?.Read ?? 0))
            {
                continue;
            }

            var whole = channel.Format == EventFormat.Csv;
            using var place = Beneath.Find(channel.Folder, file.Name);
            if (place?.Open() is not { } handle)
            {
                continue;
            }

            await using var stream = new FileStream(handle, FileAccess.Read);
            stream.Position = whole ? 0 : before?.Read ?? 0;
            var end = whole ? stream.Length : await EndOfLinesAsync(stream, cancel);
            if (end <= (before?.Read ?? 0))
            {
                continue;
            }

            stream.Position = whole ? 0 : before?.Read ?? 0;
            var lines = whole ? 0 : before?.Lines ?? 0;
            var answer = await intake.TakeAsync(
                channel.Id,
                file.Name,
                NumberedAsync(channel, new Bounded(stream, end), lines, cancel),
                null,
                cancel
            );
            await NoteAsync(channel, file.Name, end, lines + answer.Lines, cancel);
        }
    }

    /// <summary>Asked again at each look: what lies there may be another folder by now.</summary>
    private bool MayRead(Channel channel)
    {
        var trouble = $"channel-folder-{channel.Id}";
        if (Directory.Exists(channel.Folder) && options.RootPlaces.Check(channel.Folder, "folder") is { } misplaced)
        {
            troubles.Report(trouble, $"Channel {channel.Title} is not read", misplaced.Sentence, "/set-up/channels");
            return false;
        }

        troubles.Clear(trouble);
        return Directory.Exists(channel.Folder);
    }

    private Task NoteAsync(Channel channel, string file, long read, long lines, CancellationToken cancel) =>
        writer.RunAsync(
            LedgerActor.Job("intake", null),
            async session =>
            {
                var row = await session.Db.WatchedFiles.SingleOrDefaultAsync(
                    f => f.ChannelId == channel.Id && f.Path == file,
                    cancel
                );
                if (row is null)
                {
                    session.Db.WatchedFiles.Add(row = new() { ChannelId = channel.Id, Path = file });
                }

                (row.Read, row.Lines) = (read, lines);
            },
            cancel
        );

    private static async IAsyncEnumerable<ReadLine> NumberedAsync(
        Channel channel,
        Stream stream,
        long before,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        await foreach (var line in EventLines.ReadAsync(channel, stream, cancel))
        {
            yield return line with
            {
                Number = line.Number + before,
            };
        }
    }

    /// <summary>Where the last whole line ends.</summary>
    private static async Task<long> EndOfLinesAsync(FileStream stream, CancellationToken cancel)
    {
        var buffer = new byte[65_536];
        var (position, end) = (stream.Position, stream.Position);
        while (await stream.ReadAsync(buffer, cancel) is var read && read > 0)
        {
            var last = buffer.AsSpan(0, read).LastIndexOf((byte)'\n');
            end = last < 0 ? end : position + last + 1;
            position += read;
        }

        return end;
    }

    /// <summary>New entries of the ledger as events. What happens in matters stays with their members.</summary>
    private async Task LedgerAsync(WideKeelDb db, Channel channel, CancellationToken cancel)
    {
        await db.Database.OpenConnectionAsync(cancel);
        var entries = LedgerReader
            .Entries(
                (SqliteConnection)db.Database.GetDbConnection(),
                channel.LedgerRead + 1,
                channel.LedgerRead + MostEntries
            )
            .ToList();
        if (entries.Count == 0)
        {
            return;
        }

        var lines = entries
            .Select(e => (e.Sequence, Read: EventOf(e.Body)))
            .Where(e => e.Read is not null)
            .Select(e => new ReadLine(e.Sequence, "", e.Read!))
            .ToList();
        await intake.TakeAsync(channel.Id, "the ledger", lines.ToAsyncEnumerable(), null, cancel);
        await writer.RunAsync(
            LedgerActor.Job("intake", null),
            session =>
                session
                    .Db.Channels.Where(c => c.Id == channel.Id)
                    .ExecuteUpdateAsync(set => set.SetProperty(c => c.LedgerRead, entries[^1].Sequence), cancel),
            cancel
        );
    }

    private static ActivityEvent? EventOf(string body)
    {
        var entry = JsonNode.Parse(body)!;
        var (kind, id) = ((string)entry["subject"]!["kind"]!, (string)entry["subject"]!["id"]!);
        if (kind is "matter" or "notice")
        {
            return null;
        }

        var who = (string)entry["who"]!;
        return new()
        {
            Id = entry["seq"]!.ToString(),
            Time = EventLine.Moment((string)entry["at"]!)!.Value,
            Actor = who,
            ActorKind = who.StartsWith("job:", StringComparison.Ordinal) ? ActorKind.Service : ActorKind.Person,
            Category = "admin",
            Action = (string)entry["verb"]!,
            Object = $"{kind} {id}",
            Address = (string?)entry["address"],
            Application = "Wide Keel",
            Outcome = EventOutcome.Success,
            Details = entry["after"] is JsonObject after ? after.ToJsonString() : null,
        };
    }

    /// <summary>A stream that ends where another one may go on.</summary>
    private sealed class Bounded(Stream stream, long end) : Stream
    {
        public override bool CanRead => true;

        public override bool CanSeek => false;

        public override bool CanWrite => false;

        public override long Length => end;

        public override long Position
        {
            get => stream.Position;
            set => throw new NotSupportedException();
        }

        public override int Read(byte[] buffer, int offset, int count) =>
            stream.Read(buffer, offset, (int)Math.Min(count, end - stream.Position));

        public override void Flush() { }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }
}
