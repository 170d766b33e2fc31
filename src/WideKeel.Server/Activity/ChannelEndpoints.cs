using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Core.Matters;
using WideKeel.Core.People;
using WideKeel.Server.Jobs;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <param name="Readers">Ids of the people who read it, where it is not open to all analysts.</param>
/// <param name="SkewMilliseconds">Median of received − time over the last portion.</param>
/// <param name="UsualAnHour">Events in an hour over the whole hours of the last four weeks, on average.</param>
/// <param name="LastHour">Events received in the last hour.</param>
public sealed record ChannelView(
    long Id,
    string Name,
    ChannelSettings Settings,
    ChannelFeed Feed,
    bool HasKey,
    string KeyPrefix,
    Instant? LastEventAt,
    Instant? LastReceivedAt,
    long SkewMilliseconds,
    double UsualAnHour,
    long LastHour,
    long Taken,
    long Duplicates,
    long NotAdmitted,
    long TooOld,
    long Rejected,
    long SealedDays,
    long SealedBytes,
    long Revision
) : IRevised;

/// <summary>What can be changed of a channel.</summary>
public sealed record ChannelSettings(
    string Title,
    EventFormat Format,
    string Retention,
    int DaysAtHand = 400,
    int LatenessHours = 2,
    bool OpenToAnalysts = true,
    IReadOnlyList<long>? Readers = null,
    AdmissionRules? Admits = null,
    EventMapping? Mapping = null,
    string Folder = "",
    int Port = 0,
    string CertificateFile = "",
    bool Connected = true
);

public sealed record NewChannel(string Name, ChannelFeed Feed, ChannelSettings Settings);

public sealed record ChannelKey(string Key);

public sealed record RejectedLineView(Instant At, long Line, string From, string Reason, string Beginning);

/// <param name="Text">The first lines of a file.</param>
public sealed record MappingTrial(string Text, EventFormat Format, EventMapping? Mapping = null);

/// <param name="Header">The columns of a table; empty for other formats.</param>
public sealed record MappingResult(IReadOnlyList<string> Header, IReadOnlyList<TriedLine> Lines);

public sealed record TriedLine(long Line, JsonElement? Event, string? Reason);

public sealed record ChannelName(string Name, string Title);

/// <param name="Days">Sealed days among them.</param>
public sealed record KeptEvents(long Events, int Days);

/// <param name="BytesAnEvent">Sealed.</param>
/// <param name="Months">For how long events are kept.</param>
public sealed record CostQuestion(double EventsADay, double BytesAnEvent, int Months, IReadOnlyList<CostPlan> Plans);

/// <summary>Channels: what they admit and keep, who reads them, how they fare.</summary>
public static partial class ChannelEndpoints
{
    private const int MostTrialCharacters = 1_000_000;
    private const int TriedLines = 20;
    private const long UsualHours = 28 * 24;

    public static void MapChannels(this IEndpointRouteBuilder api)
    {
        api.MapGet("/channels", List).Requires(Right.ManageChannels);
        api.MapPost("/channels", Add).Requires(Right.ManageChannels);
        api.MapPut("/channels/{id:long}", Change).Requires(Right.ManageChannels);
        api.MapPost("/channels/{id:long}/key", NewKey).Requires(Right.ManageChannels);
        api.MapGet("/channels/{id:long}/rejected", Rejected).Requires(Right.ManageChannels);
        api.MapPost("/channels/trial", Try).Requires(Right.ManageChannels);
        api.MapPost("/channels/{id:long}/files", BackFill)
            .Produces<IntakeAnswer>()
            .Produces<IntakeAnswer>(StatusCodes.Status207MultiStatus)
            .Requires(Right.ManageChannels);
        api.MapGet("/channels/names", Names).Requires(Right.OpenMatters);
        api.MapPost("/channels/kept", Kept).Requires(Right.OpenMatters);
        api.MapPost("/channels/costs", Costs).Requires(Right.ManageChannels);
        api.MapPost("/channels/seal", Seal).Requires(Right.ManageChannels);
        api.MapPost("/channels/{name}/events", Take)
            .Produces<IntakeAnswer>()
            .Produces<IntakeAnswer>(StatusCodes.Status207MultiStatus)
            .OpenToAll();
    }

    private static async Task<Reply<IReadOnlyList<ChannelView>>> List(
        WideKeelDb db,
        IClock clock,
        CancellationToken cancel
    )
    {
        var now = clock.GetCurrentInstant();
        var (hour, hourAgo) = (
            EventCounts.Floor(now.ToUnixTimeMilliseconds(), EventCounts.HourMilliseconds),
            now - Duration.FromHours(1)
        );
        var usual = await db
            .EventHourCounts.Where(c => c.Hour >= hour - UsualHours && c.Hour < hour)
            .GroupBy(c => c.ChannelId)
            .Select(g => new { g.Key, Events = g.Sum(c => c.Events) })
            .ToDictionaryAsync(g => g.Key, g => g.Events, cancel);
        var last = await db
            .Events.Where(e => e.Time >= hourAgo)
            .GroupBy(e => e.ChannelId)
            .Select(g => new { g.Key, Events = g.LongCount() })
            .ToDictionaryAsync(g => g.Key, g => g.Events, cancel);
        var files = await db
            .Segments.Where(s => s.RemovedAt == null)
            .GroupBy(s => s.ChannelId)
            .Select(g => new
            {
                g.Key,
                Days = g.LongCount(),
                Bytes = g.Sum(s => s.Bytes),
            })
            .ToDictionaryAsync(g => g.Key, cancel);
        var readers = (await db.ChannelReaders.AsNoTracking().ToListAsync(cancel)).ToLookup(r => r.ChannelId);
        return (Outcome<IReadOnlyList<ChannelView>>)
            (await db.Channels.AsNoTracking().OrderBy(c => c.Title).ToListAsync(cancel))
                .Select(c => new ChannelView(
                    c.Id,
                    c.Name,
                    SettingsOf(c, readers[c.Id].Select(r => r.PersonId)),
                    c.Feed,
                    c.KeyHash is not null,
                    c.KeyPrefix,
                    c.LastEventAt,
                    c.LastReceivedAt,
                    c.SkewMilliseconds,
                    Math.Round((double)usual.GetValueOrDefault(c.Id) / UsualHours, 1),
                    last.GetValueOrDefault(c.Id),
                    c.Taken,
                    c.Duplicates,
                    c.NotAdmitted,
                    c.TooOld,
                    c.Rejected,
                    files.GetValueOrDefault(c.Id)?.Days ?? 0,
                    files.GetValueOrDefault(c.Id)?.Bytes ?? 0,
                    c.Version
                ))
                .ToList();
    }

    private static ChannelSettings SettingsOf(Channel c, IEnumerable<long> readers) =>
        new(
            c.Title,
            c.Format,
            c.Retention,
            c.DaysAtHand,
            c.LatenessHours,
            c.OpenToAnalysts,
            [.. readers],
            JsonSerializer.Deserialize<AdmissionRules>(c.Admits, Json.Options),
            c.Mapping.Length == 0 ? null : EventLines.MappingOf(c),
            c.Folder,
            c.Port,
            c.CertificateFile,
            c.Connected
        );

    private static async Task<Reply<Done>> Add(
        NewChannel request,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    )
    {
        if (!AName().IsMatch(request.Name))
        {
            return new Refusal(
                "name-malformed",
                "name",
                "A channel’s name has lower-case letters, digits and hyphens, at most 40, and begins with a letter."
            );
        }

        if (request.Settings.Format == EventFormat.Syslog != (request.Feed == ChannelFeed.Syslog))
        {
            return new Refusal("format-unfit", "format", "Syslog comes over syslog’s port, and nothing else does.");
        }

        if (Check(request.Feed, request.Settings, options.RootPlaces, context.Calendar.Today) is { } refusal)
        {
            return refusal;
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await session.Db.Channels.AnyAsync(c => c.Name == request.Name, context.Cancel))
                {
                    return Refusal.Conflict("name-taken", "name", $"There is a channel “{request.Name}” already.");
                }

                if (
                    request.Feed == ChannelFeed.Ledger
                    && await session.Db.Channels.AnyAsync(c => c.Feed == ChannelFeed.Ledger, context.Cancel)
                )
                {
                    return Refusal.Conflict("ledger-taken", "feed", "The ledger is read by a channel already.");
                }

                var channel = new Channel
                {
                    Name = request.Name,
                    Title = request.Settings.Title.Trim(),
                    Feed = request.Feed,
                    Format = request.Settings.Format,
                    Retention = request.Settings.Retention,
                };
                session.Db.Channels.Add(channel);
                Apply(channel, request.Settings);
                await session.Db.SaveChangesAsync(context.Cancel);
                SetReaders(session, channel, request.Settings);
                session.Record("connected", Subject(channel), after: Described(channel, request.Settings));
                return new Done();
            },
            context.Cancel
        );
    }

    private static async Task<Reply<Done>> Change(
        long id,
        ChannelSettings request,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await session.Db.Channels.SingleOrDefaultAsync(c => c.Id == id, context.Cancel) is not { } channel)
                {
                    return Problems.NotFound("channel");
                }

                if (
                    (
                        Problems.CheckMatch(context.Http, channel.Version)
                        ?? Check(channel.Feed, request, options.RootPlaces, context.Calendar.Today)
                    ) is
                    { } refusal
                )
                {
                    return refusal;
                }

                var readers = await session.Db.ChannelReaders.Where(r => r.ChannelId == id).ToListAsync(context.Cancel);
                var before = Described(channel, SettingsOf(channel, readers.Select(r => r.PersonId)));
                Apply(channel, request);
                channel.Version++;
                session.Db.ChannelReaders.RemoveRange(readers);
                await session.Db.SaveChangesAsync(context.Cancel);
                SetReaders(session, channel, request);
                session.Record("changed", Subject(channel), before, Described(channel, request));
                return new Done();
            },
            context.Cancel
        );

    private static Refusal? Check(ChannelFeed feed, ChannelSettings settings, RootPlaces places, LocalDate today)
    {
        if (string.IsNullOrWhiteSpace(settings.Title) || settings.Title.Length > 200)
        {
            return new("title-missing", "title", "A channel needs a title of at most 200 characters.");
        }

        if (WideKeel.Core.Time.Period.Parse(settings.Retention, "retention").Refusal is { } unfit)
        {
            return unfit;
        }

        if (settings.DaysAtHand is < 1 or > 4000 || settings.LatenessHours is < 0 or > 720)
        {
            return new("days-malformed", "daysAtHand", "Days at hand are 1 to 4,000, hours of lateness 0 to 720.");
        }

        if (feed == ChannelFeed.Syslog && settings.Port is < 1 or > 65_535)
        {
            return new("port-malformed", "port", "Syslog needs a port from 1 to 65535.");
        }

        if (CheckPaths(feed, settings, places) is { } misplaced)
        {
            return misplaced;
        }

        return settings.Format == EventFormat.Csv && settings.Mapping is null && feed != ChannelFeed.Ledger
                ? new("mapping-missing", "mapping", "A table needs a mapping of its columns; try it first.")
            : settings.Mapping?.Check() is { } unmapped ? unmapped
            : settings.Admits?.Compile(today).Refusal;
    }

    /// <summary>Why a folder or a file that somebody typed cannot be used, or null.</summary>
    private static Refusal? CheckPaths(ChannelFeed feed, ChannelSettings settings, RootPlaces places) =>
        feed == ChannelFeed.Folder
        && (DirectoryShare.CheckRoot(settings.Folder) ?? places.Check(settings.Folder, "folder")) is { } misplaced
            ? misplaced with
            {
                Field = "folder",
            }
        : settings.CertificateFile.Length > 0 ? places.CheckFile(settings.CertificateFile, "certificateFile")
        : null;

    private static void Apply(Channel channel, ChannelSettings settings)
    {
        (channel.Title, channel.Format, channel.Retention) = (
            settings.Title.Trim(),
            settings.Format,
            settings.Retention
        );
        (channel.DaysAtHand, channel.LatenessHours) = (settings.DaysAtHand, settings.LatenessHours);
        (channel.OpenToAnalysts, channel.Connected) = (settings.OpenToAnalysts, settings.Connected);
        (channel.Folder, channel.Port, channel.CertificateFile) = (
            settings.Folder,
            settings.Port,
            settings.CertificateFile
        );
        channel.Admits = JsonSerializer.Serialize(settings.Admits ?? new(), Json.Options);
        channel.Mapping = settings.Mapping is null ? "" : JsonSerializer.Serialize(settings.Mapping, Json.Options);
    }

    private static void SetReaders(WriteSession session, Channel channel, ChannelSettings settings) =>
        session.Db.ChannelReaders.AddRange(
            (settings.Readers ?? []).Distinct().Select(r => new ChannelReader { ChannelId = channel.Id, PersonId = r })
        );

    private static JsonObject Described(Channel channel, ChannelSettings settings) =>
        new()
        {
            ["name"] = channel.Name,
            ["feed"] = channel.Feed.ToString().ToLowerInvariant(),
            ["settings"] = JsonSerializer.SerializeToNode(settings, Json.Options),
        };

    private static LedgerSubject Subject(Channel channel) => LedgerSubject.Of("channel", channel.Id);

    /// <summary>Makes a new key; the former one opens nothing any more. It is shown this once.</summary>
    private static async Task<Reply<ChannelKey>> NewKey(
        long id,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<ChannelKey>(
            caller.Actor,
            async session =>
            {
                if (
                    await session.Db.Channels.SingleOrDefaultAsync(
                        c => c.Id == id && c.Feed == ChannelFeed.Http,
                        cancel
                    )
                    is not { } channel
                )
                {
                    return Problems.NotFound("channel that takes a key");
                }

                var key = ApiKeyAuthentication.NewChannelKey();
                (channel.KeyHash, channel.KeyPrefix) = (ApiKeyAuthentication.HashOf(key), key[..8]);
                session.Record("key-made", Subject(channel), after: new JsonObject { ["prefix"] = key[..8] });
                return new ChannelKey(key);
            },
            cancel
        );

    private static async Task<Reply<IReadOnlyList<RejectedLineView>>> Rejected(
        long id,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        (Outcome<IReadOnlyList<RejectedLineView>>)
            await db
                .RejectedLines.AsNoTracking()
                .Where(r => r.ChannelId == id)
                .OrderByDescending(r => r.Id)
                .Select(r => new RejectedLineView(r.At, r.Line, r.From, r.Reason, r.Beginning))
                .ToListAsync(cancel);

    /// <summary>Reads the first lines of a file as a format or mapping would, and writes nothing.</summary>
    private static async Task<Reply<MappingResult>> Try(MappingTrial request, CancellationToken cancel)
    {
        if (request.Text.Length > MostTrialCharacters)
        {
            return new Refusal("text-too-long", "text", "At most a million characters are tried.");
        }

        if (request.Mapping?.Check() is { } refusal)
        {
            return refusal;
        }

        var trial = new Channel
        {
            Name = "trial",
            Title = "",
            Feed = ChannelFeed.Files,
            Format = request.Format,
            Retention = "P1Y",
            Mapping = request.Mapping is null ? "" : JsonSerializer.Serialize(request.Mapping, Json.Options),
        };
        using var stream = new MemoryStream(System.Text.Encoding.UTF8.GetBytes(request.Text));
        List<TriedLine> lines = [];
        await foreach (var line in EventLines.ReadAsync(trial, stream, cancel))
        {
            lines.Add(
                new(
                    line.Number,
                    line.Event.Refused ? null : JsonSerializer.SerializeToElement(EventLine.Write(line.Event.Value)),
                    line.Event.Refusal?.Sentence
                )
            );
            if (lines.Count == TriedLines)
            {
                break;
            }
        }

        return new MappingResult(request.Format == EventFormat.Csv ? EventLines.HeaderOf(request.Text) : [], lines);
    }

    /// <summary>The channels that a hold order can keep; of what is in them it says nothing.</summary>
    private static async Task<Reply<IReadOnlyList<ChannelName>>> Names(WideKeelDb db, CancellationToken cancel) =>
        (Outcome<IReadOnlyList<ChannelName>>)
            await db
                .Channels.AsNoTracking()
                .OrderBy(c => c.Title)
                .Select(c => new ChannelName(c.Name, c.Title))
                .ToListAsync(cancel);

    /// <summary>How many events a hold order would keep.</summary>
    private static async Task<Reply<KeptEvents>> Kept(HoldDefinition asked, [AsParameters] ApiContext context)
    {
        if (asked.Check(context.Calendar.Today).Refusal is { } refusal)
        {
            return refusal;
        }

        var names = asked.Channels ?? [];
        var channels = await context
            .Db.Channels.AsNoTracking()
            .Where(c => names.Contains(c.Name))
            .ToDictionaryAsync(c => c.Id, c => c.Name, context.Cancel);
        var ids = channels.Keys.ToList();
        var files = await context
            .Db.Segments.AsNoTracking()
            .Where(s => ids.Contains(s.ChannelId) && s.RemovedAt == null)
            .ToListAsync(context.Cancel);
        var open = await context
            .Db.Events.AsNoTracking()
            .Where(e => ids.Contains(e.ChannelId) && e.SegmentId == null)
            .Select(e => new { e.ChannelId, e.Time })
            .ToListAsync(context.Cancel);
        var kept = files.Where(s => asked.KeepsEvents(channels[s.ChannelId], s.Day)).ToList();
        return new KeptEvents(
            kept.Sum(s => s.Events)
                + open.LongCount(e => asked.KeepsEvents(channels[e.ChannelId], e.Time.InUtc().Date)),
            kept.Count
        );
    }

    private static Reply<CostComparison> Costs(CostQuestion asked) =>
        asked.EventsADay is <= 0 or > 1e12 || asked.BytesAnEvent is <= 0 or > 1e6 || asked.Months is < 1 or > 240
            ? new Refusal("plan-malformed", "months", "Events and bytes are above zero, months 1 to 240.")
        : asked.Plans.Count is < 1 or > 6 ? new Refusal("plan-malformed", "plans", "Compare one to six plans.")
        : CostComparison.Of(asked.EventsADay, asked.BytesAnEvent, asked.Months, asked.Plans);

    private static async Task<Reply<Done>> Seal(Caller caller, Writer writer, CancellationToken cancel)
    {
        await writer.RunAsync(
            caller.Actor,
            session =>
                JobBoard.AddAsync(session, SealJob.JobKind, 0, "Sealing the days that are over", null, caller.Name),
            cancel
        );
        return new Done();
    }

    [GeneratedRegex("^[a-z][a-z0-9-]{0,39}$")]
    private static partial Regex AName();
}
