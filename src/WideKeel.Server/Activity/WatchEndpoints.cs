using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>A watch's rule as a file of watches gives it; what a kind does not use is missing.</summary>
/// <param name="Kind">each, count, first, unusual, journey, silence or sequence.</param>
/// <param name="Within">ISO 8601, such as PT1H.</param>
public sealed record WatchRule(
    string Kind,
    string? Where = null,
    string? Except = null,
    string? Per = null,
    string? Of = null,
    double? Threshold = null,
    string? Within = null,
    string? Dimension = null,
    string? Scope = null,
    string? Learn = null,
    string? Sensitivity = null,
    double? Least = null,
    double? MaxKmh = null,
    double? MinKm = null,
    string? For = null,
    string? First = null,
    string? Then = null,
    bool? Usual = null,
    string? Against = null,
    string? Quiet = null
);

/// <param name="Recipients">Mail addresses of accounts.</param>
/// <param name="DailyCap">At most so many messages a day; alerts beyond it stand in the log.</param>
/// <param name="Act">What it does in the directory by itself: suspend, sign-out, remove-link, remove-member,
/// revoke-consent; null for nothing.</param>
public sealed record WatchSettings(
    string Name,
    WatchRule Rule,
    AlertSeverity Severity,
    IReadOnlyList<string>? Recipients = null,
    string Words = "",
    int DailyCap = 5,
    string? Act = null
);

/// <param name="Week">Alerts of the last seven days.</param>
/// <param name="Quarter">Alerts of the last ninety days.</param>
public sealed record WatchView(
    long Id,
    WatchSettings Settings,
    bool On,
    Instant Since,
    Instant? LastAlertAt,
    int Week,
    int Quarter,
    long Revision
) : IRevised;

/// <summary>From when a watch alerts.</summary>
/// <param name="Since">Null: from now on.</param>
public sealed record WatchSwitch(DateTimeOffset? Since);

/// <summary>The watches: made, tried on what was, switched on and off.</summary>
public static class WatchEndpoints
{
    private static readonly JsonSerializerOptions Plain = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };

    public static void MapWatches(this IEndpointRouteBuilder api)
    {
        api.MapGet("/watches", List).Requires(Right.ReadActivity);
        api.MapGet("/watches/templates", Templates).Requires(Right.ReadActivity);
        api.MapGet("/watches/kinds", Kinds).Requires(Right.ReadActivity);
        api.MapPost("/watches", Make).Requires(Right.ManageWatches);
        api.MapPut("/watches/{id:long}", Change).Requires(Right.ManageWatches);
        api.MapDelete("/watches/{id:long}", Remove).Requires(Right.ManageWatches);
        api.MapPost("/watches/{id:long}/on", SwitchOn).Requires(Right.ManageWatches);
        api.MapPost("/watches/{id:long}/off", SwitchOff).Requires(Right.ManageWatches);
        api.MapPost("/watches/backtest", WatchBacktest.Run).Requires(Right.ReadActivity);
    }

    /// <summary>The settings of a stored watch.</summary>
    internal static WatchSettings SettingsOf(WatchRow row) =>
        new(
            row.Name,
            JsonSerializer.Deserialize<WatchRule>(row.Definition, Plain)!,
            row.Severity,
            row.Recipients.Split(' ', StringSplitOptions.RemoveEmptyEntries),
            row.Words,
            row.DailyCap,
            row.Act
        );

    private static async Task<Reply<IReadOnlyList<WatchView>>> List(IClock clock, [AsParameters] ApiContext context)
    {
        var (db, cancel) = (context.Db, context.Cancel);
        var access = await ChannelAccess.OfAsync(context.Caller, db, cancel);
        var now = clock.GetCurrentInstant();
        var (week, quarter) = (now - Duration.FromDays(7), now - Duration.FromDays(90));
        var alerts = (
            await access
                .Of(db.Alerts.AsNoTracking())
                .Where(a => !a.Withdrawn)
                .GroupBy(a => a.WatchId)
                .Select(g => new
                {
                    g.Key,
                    Last = g.Max(a => (Instant?)a.At),
                    Week = g.Count(a => a.At >= week),
                    Quarter = g.Count(a => a.At >= quarter),
                })
                .ToListAsync(cancel)
        ).ToDictionary(a => a.Key);
        var rows = await db.Watches.AsNoTracking().OrderBy(w => w.Name).ToListAsync(cancel);
        return (Outcome<IReadOnlyList<WatchView>>)
            rows.Select(w => new WatchView(
                    w.Id,
                    SettingsOf(w),
                    w.On,
                    w.Since,
                    alerts.GetValueOrDefault(w.Id)?.Last,
                    alerts.GetValueOrDefault(w.Id)?.Week ?? 0,
                    alerts.GetValueOrDefault(w.Id)?.Quarter ?? 0,
                    w.Version
                ))
                .ToList();
    }

    private static Reply<IReadOnlyList<WatchKindView>> Kinds() =>
        (Outcome<IReadOnlyList<WatchKindView>>)WatchKinds.All.ToList();

    private static Reply<IReadOnlyList<WatchSettings>> Templates()
    {
        List<WatchSettings> templates = [];
        foreach (var watch in JsonNode.Parse(WatchTemplates.Json)!["watches"]!.AsArray())
        {
            templates.Add(
                new(watch!["name"]!.GetValue<string>(), watch.Deserialize<WatchRule>(Plain)!, AlertSeverity.Medium)
            );
        }

        return (Outcome<IReadOnlyList<WatchSettings>>)templates;
    }

    /// <summary>The rule as a file would give it.</summary>
    internal static string Text(WatchRule rule, string name)
    {
        var text = JsonSerializer.SerializeToNode(rule, Plain)!.AsObject();
        text["name"] = name;
        var empty = text.Where(p => p.Value is JsonValue v && v.TryGetValue<string>(out var s) && s == "");
        foreach (var (key, _) in empty.ToList())
        {
            text.Remove(key);
        }

        return text.ToJsonString();
    }

    private static async Task<Refusal?> CheckAsync(
        WatchSettings settings,
        long? id,
        WriteSession session,
        LocalDate today
    )
    {
        if (string.IsNullOrWhiteSpace(settings.Name) || settings.Name.Length > 200)
        {
            return new("name-missing", "name", "A watch needs a name of at most 200 characters.");
        }

        var name = settings.Name.Trim();
        if (await session.Db.Watches.AnyAsync(w => w.Name == name && w.Id != id))
        {
            return Refusal.Conflict("name-taken", "name", $"There is a watch “{name}” already.");
        }

        if (WatchFile.ReadOne(Text(settings.Rule, name), today).Refusal is { } malformed)
        {
            return malformed;
        }

        if (settings.DailyCap is < 0 or > 1000)
        {
            return new("cap-malformed", "dailyCap", "A day’s messages are 0 to 1,000.");
        }

        if (settings.Act is { Length: > 0 } act && !AlertActs.Known.ContainsKey(act))
        {
            return new("act-unknown", "act", $"“{act}” is none of {string.Join(", ", AlertActs.Known.Keys)}.");
        }

        foreach (var mail in settings.Recipients ?? [])
        {
            var upper = mail.ToUpperInvariant();
            if (!await session.Db.Users.AnyAsync(u => u.NormalizedEmail == upper && u.Active))
            {
                return new("recipient-unknown", "recipients", $"Nobody with an account here has the address {mail}.");
            }
        }

        return null;
    }

    private static void Apply(WatchRow row, WatchSettings settings)
    {
        row.Name = settings.Name.Trim();
        row.Definition = Text(settings.Rule, row.Name);
        row.Severity = settings.Severity;
        row.Recipients = string.Join(' ', settings.Recipients ?? []);
        row.Words = settings.Words;
        row.DailyCap = settings.DailyCap;
        row.Act = string.IsNullOrEmpty(settings.Act) ? null : settings.Act;
    }

    private static async Task<Reply<Done>> Make(WatchSettings request, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await CheckAsync(request, null, session, context.Calendar.Today) is { } refusal)
                {
                    return refusal;
                }

                var row = new WatchRow
                {
                    Name = "",
                    Definition = "",
                    Severity = request.Severity,
                    PersonId = context.Caller.PersonId,
                    ChangedAt = session.Now,
                    Since = session.Now,
                };
                Apply(row, request);
                session.Db.Watches.Add(row);
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record("made", Subject(row), after: Described(row));
                return new Done();
            },
            context.Cancel
        );

    private static Task<Reply<Done>> Change(long id, WatchSettings request, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                if (
                    (
                        Problems.CheckMatch(context.Http, row.Version)
                        ?? await CheckAsync(request, id, session, context.Calendar.Today)
                    ) is
                    { } refusal
                )
                {
                    return refusal;
                }

                var (before, rule, act) = (Described(row), row.Definition, row.Act);
                Apply(row, request);
                if (rule != row.Definition || act != row.Act)
                {
                    row.PersonId = context.Caller.PersonId;
                }

                row.JudgeWhole = row.On && rule != row.Definition;
                session.Record("changed", Subject(row), before, Described(row));
                return null;
            }
        );

    private static Task<Reply<Done>> Remove(long id, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                if (row.On || await session.Db.Alerts.AnyAsync(a => a.WatchId == id, context.Cancel))
                {
                    return Refusal.Conflict(
                        "watch-in-use",
                        null,
                        row.On
                            ? "It is on. Switch it off first."
                            : "It raised alerts, which stay with it. Leave it off instead."
                    );
                }

                session.Db.Watches.Remove(row);
                session.Record("removed", Subject(row), Described(row));
                return null;
            }
        );

    private static Task<Reply<Done>> SwitchOn(long id, WatchSwitch request, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                row.Since = request.Since is { } since ? Instant.FromDateTimeOffset(since) : session.Now;
                row.On = true;
                row.JudgeWhole = request.Since is not null;
                row.JudgedTo = await session.Db.Events.MaxAsync(e => (long?)e.Id, context.Cancel) ?? 0;
                session.Record(
                    "switched-on",
                    Subject(row),
                    after: new JsonObject { ["since"] = EventLine.Text(row.Since) }
                );
                return null;
            }
        );

    private static Task<Reply<Done>> SwitchOff(long id, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            (session, row) =>
            {
                row.On = false;
                session.Record("switched-off", Subject(row));
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static async Task<Reply<Done>> WorkAsync(
        long id,
        ApiContext context,
        Func<WriteSession, WatchRow, Task<Refusal?>> work
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await session.Db.Watches.SingleOrDefaultAsync(w => w.Id == id, context.Cancel) is not { } row)
                {
                    return Problems.NotFound("watch");
                }

                if (await work(session, row) is { } refusal)
                {
                    return refusal;
                }

                row.Version++;
                row.ChangedAt = session.Now;
                return new Done();
            },
            context.Cancel
        );

    private static LedgerSubject Subject(WatchRow row) => LedgerSubject.Of("watch", row.Id);

    private static JsonObject Described(WatchRow row) =>
        new()
        {
            ["name"] = row.Name,
            ["rule"] = JsonNode.Parse(row.Definition),
            ["severity"] = row.Severity.ToString(),
            ["recipients"] = row.Recipients,
            ["act"] = row.Act,
        };
}
