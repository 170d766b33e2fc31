using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Sensitive;
using WideKeel.Core.Time;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Jobs;

namespace WideKeel.Server.Content;

/// <param name="Items">Items within one's remit in which it was found.</param>
/// <param name="Id">Of a kind that the organisation added; null for the product's own.</param>
public sealed record KindView(
    string Name,
    string Title,
    long Items,
    long? Id,
    long Revision,
    OwnKindDefinition? Definition
) : IRevised;

/// <summary>How many items of a container hold a kind, and how many finds there are of each confidence.</summary>
public sealed record KindPlace(long ContainerId, string Kind, long Items, long Possible, long Likely, long Certain);

public sealed record PlaceContainer(long Id, string Name, string Source, string Unit, long Items);

public sealed record SensitivePlaces(
    IReadOnlyList<KindView> Kinds,
    IReadOnlyList<PlaceContainer> Containers,
    IReadOnlyList<KindPlace> Places
);

/// <summary>A kind tried on a text before anything is kept; with no definition, all kinds are tried.</summary>
public sealed record KindTrial(OwnKindDefinition? Kind, string Text);

public sealed record TrialFind(string Kind, Confidence Confidence, int Start, int Length, string Masked);

/// <param name="Why">Goes to the ledger with what was shown.</param>
public sealed record Unmasking(string Why);

public sealed record Unmasked(string Text, IReadOnlyList<FindMark> Finds);

/// <summary>Which sensitive kinds lie where, kinds of one's own, and the one way to see what is masked.</summary>
public static class SensitiveEndpoints
{
    private const int MostTrialCharacters = 100_000;

    public static void MapSensitive(this IEndpointRouteBuilder api)
    {
        api.MapGet("/sensitive", Places).Requires(Right.ReadSensitive);
        api.MapPost("/sensitive/trial", Try).Requires(Right.WriteKinds);
        api.MapPost("/sensitive/kinds", Add).Requires(Right.WriteKinds);
        api.MapPut("/sensitive/kinds/{id:long}", Change).Requires(Right.WriteKinds);
        api.MapDelete("/sensitive/kinds/{id:long}", Remove).Requires(Right.WriteKinds);
        api.MapPost("/sensitive/look", Look).Requires(Right.WriteKinds);
        api.MapPost("/items/{id:long}/unmasking", Unmask).Requires(Right.UnmaskSensitive);
    }

    private static async Task<Reply<SensitivePlaces>> Places(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var places = await FindsAsync(
            db,
            caller.Items(Right.ReadContent, Right.ReadSensitive),
            calendar.Today.ToDayNumber(),
            cancel
        );
        var ids = places.Select(p => p.ContainerId).Distinct().ToList();
        var containers = await (
            from c in db.Containers.AsNoTracking()
            join s in db.Sources on c.SourceId equals s.Id
            join u in db.Units on c.UnitId equals u.Id
            where ids.Contains(c.Id)
            orderby s.Name, c.Name
            select new PlaceContainer(
                c.Id,
                c.Name,
                s.Name,
                u.Name,
                db.Items.Count(i => i.ContainerId == c.Id && i.DestroyedAt == null)
            )
        ).ToListAsync(cancel);
        var items = places.GroupBy(p => p.Kind).ToDictionary(g => g.Key, g => g.Sum(p => p.Items));
        var own = await db.OwnKinds.AsNoTracking().OrderBy(k => k.Name).ToListAsync(cancel);
        return new SensitivePlaces(
            [
                .. SensitiveKinds.BuiltIn.Select(k => new KindView(
                    k.Name,
                    k.Title,
                    items.GetValueOrDefault(k.Name),
                    null,
                    0,
                    null
                )),
                .. own.Select(k => ViewOf(k, items.GetValueOrDefault(k.Name))),
            ],
            containers,
            places
        );
    }

    /// <summary>How much of each kind lies in each container.</summary>
    /// <param name="today">By its number.</param>
    private static async Task<List<KindPlace>> FindsAsync(
        WideKeelDb db,
        ItemFilter visible,
        int today,
        CancellationToken cancel
    )
    {
        await db.Database.OpenConnectionAsync(cancel);
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        command.CommandText = $"""
            SELECT i.ContainerId, f.Kind, COUNT(*), SUM(f.Possible), SUM(f.Likely), SUM(f.Certain)
            FROM item i JOIN container c ON c.Id = i.ContainerId JOIN item_sensitive f ON f.ItemId = i.Id
            WHERE {visible.Where()} GROUP BY 1, 2
            """;
        visible.Bind(command, today);
        using var reader = await command.ExecuteReaderAsync(cancel);
        List<KindPlace> places = [];
        while (reader.Read())
        {
            places.Add(
                new(
                    reader.GetInt64(0),
                    reader.GetString(1),
                    reader.GetInt64(2),
                    reader.GetInt64(3),
                    reader.GetInt64(4),
                    reader.GetInt64(5)
                )
            );
        }

        return places;
    }

    private static KindView ViewOf(OwnKind kind, long items) =>
        new(kind.Name, kind.Title, items, kind.Id, kind.Revision, KindSet.DefinitionOf(kind));

    private static async Task<Reply<IReadOnlyList<TrialFind>>> Try(KindTrial trial, WideKeelDb db)
    {
        if (trial.Text.Length > MostTrialCharacters)
        {
            return new Refusal(
                "text-too-long",
                "text",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"A text to try on has at most {MostTrialCharacters:N0} characters."
                )
            );
        }

        SensitiveScan scan;
        if (trial.Kind is { } definition)
        {
            var kind = definition.Check();
            if (kind.Refusal is { } refusal)
            {
                return refusal;
            }

            scan = new([kind.Value]);
        }
        else
        {
            scan = await KindSet.ScanAsync(db);
        }

        return (Outcome<IReadOnlyList<TrialFind>>)
            scan.FindIn(trial.Text)
                .Select(f => new TrialFind(f.Kind, f.Confidence, f.Start, f.Length, f.MaskedIn(trial.Text)))
                .ToList();
    }

    private static async Task<Reply<KindView>> Add(
        OwnKindDefinition definition,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<KindView>(
            caller.Actor,
            async session =>
            {
                if (definition.Check().Refusal is { } refusal)
                {
                    return refusal;
                }

                if (await session.Db.OwnKinds.AnyAsync(k => k.Name == definition.Name, cancel))
                {
                    return Refusal.Conflict("kind-taken", "name", $"There is a kind named {definition.Name} already.");
                }

                var kind = new OwnKind
                {
                    Name = definition.Name,
                    Title = "",
                    Pattern = "",
                    Nearby = "",
                };
                Fill(kind, definition);
                session.Db.OwnKinds.Add(kind);
                await session.Db.SaveChangesAsync(cancel);
                session.Record("added", Subject(kind.Id), after: Json(definition));
                await LookAgainAsync(session, caller);
                return ViewOf(kind, 0);
            },
            cancel
        );

    private static async Task<Reply<KindView>> Change(
        long id,
        OwnKindDefinition definition,
        [AsParameters] ApiContext context
    ) =>
        await context.Writer.RunAsync<KindView>(
            context.Caller.Actor,
            async session =>
            {
                var kind = await session.Db.OwnKinds.SingleOrDefaultAsync(k => k.Id == id, context.Cancel);
                if (kind is null)
                {
                    return Problems.NotFound("kind");
                }

                if (Problems.CheckMatch(context.Http, kind.Revision) is { } stale)
                {
                    return stale;
                }

                if (definition.Name != kind.Name)
                {
                    return new Refusal(
                        "kind-name-fixed",
                        "name",
                        "A kind keeps its name, because queries speak of it by that name."
                    );
                }

                if (definition.Check().Refusal is { } refusal)
                {
                    return refusal;
                }

                session.Record("changed", Subject(id), Json(KindSet.DefinitionOf(kind)), Json(definition));
                Fill(kind, definition);
                kind.Revision++;
                await LookAgainAsync(session, context.Caller);
                return ViewOf(kind, 0);
            },
            context.Cancel
        );

    private static async Task<Reply<Done>> Remove(long id, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var kind = await session.Db.OwnKinds.SingleOrDefaultAsync(k => k.Id == id, context.Cancel);
                if (kind is null)
                {
                    return Problems.NotFound("kind");
                }

                if (Problems.CheckMatch(context.Http, kind.Revision) is { } stale)
                {
                    return stale;
                }

                session.Record("removed", Subject(id), Json(KindSet.DefinitionOf(kind)));
                session.Db.OwnKinds.Remove(kind);
                await session.Db.ItemSensitives.Where(s => s.Kind == kind.Name).ExecuteDeleteAsync(context.Cancel);
                // A scan that is at work still looks for it; the job behind it takes out what that one puts in.
                await LookAgainAsync(session, context.Caller);
                return new Done();
            },
            context.Cancel
        );

    private static async Task<Reply<JobView>> Look(Caller caller, Writer writer, CancellationToken cancel) =>
        await writer.RunAsync<JobView>(
            caller.Actor,
            async session =>
            {
                var job = await LookAgainAsync(session, caller);
                await session.Db.SaveChangesAsync(cancel);
                return JobView.Of(job);
            },
            cancel
        );

    private static async Task<Reply<Unmasked>> Unmask(
        long id,
        Unmasking request,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<Unmasked>(
            caller.Actor,
            async session =>
            {
                var item = await ItemEndpoints.VisibleAsync(id, caller, session.Db);
                if (item is null || !caller.May(Right.UnmaskSensitive, item.Container!.UnitId))
                {
                    return Problems.NotFound("item");
                }

                if (string.IsNullOrWhiteSpace(request.Why) || request.Why.Length > 1000)
                {
                    return new Refusal(
                        "reason-missing",
                        "why",
                        "Say why, in at most 1,000 characters; it goes to the ledger."
                    );
                }

                var text = (
                    await session.Db.ItemTexts.AsNoTracking().SingleOrDefaultAsync(t => t.ItemId == id, cancel)
                )?.Text;
                if (string.IsNullOrEmpty(text))
                {
                    return new Refusal("no-text", null, "There is no text in it that is masked.");
                }

                var finds = (await KindSet.ScanAsync(session.Db)).FindIn(text);
                session.Record(
                    "unmasked",
                    new("item", id.ToString(CultureInfo.InvariantCulture), caller.PathOf(item.Container.UnitId).Value),
                    after: new JsonObject
                    {
                        ["kinds"] = new JsonArray([
                            .. finds
                                .Where(f => f.IsHidden)
                                .Select(f => f.Kind)
                                .Distinct()
                                .Order(StringComparer.Ordinal)
                                .Select(k => (JsonNode)k),
                        ]),
                    },
                    reason: request.Why.Trim()
                );
                return new Unmasked(
                    text,
                    [.. finds.Select(f => new FindMark(f.Kind, f.Confidence, f.Start, f.Length))]
                );
            },
            cancel
        );

    private static Task<Job> LookAgainAsync(WriteSession session, Caller caller) =>
        JobBoard.AddAsync(session, LookJob.JobKind, 0, "Looking for sensitive data", null, caller.Name);

    private static void Fill(OwnKind kind, OwnKindDefinition definition) =>
        (kind.Title, kind.Pattern, kind.Checksum, kind.Nearby) = (
            definition.Title.Trim(),
            definition.Pattern,
            definition.Checksum,
            string.Join('\n', definition.Nearby)
        );

    private static Core.Ledger.LedgerSubject Subject(long id) =>
        new("sensitive-kind", id.ToString(CultureInfo.InvariantCulture));

    private static JsonObject Json(OwnKindDefinition definition) =>
        new()
        {
            ["name"] = definition.Name,
            ["title"] = definition.Title,
            ["pattern"] = definition.Pattern,
            ["checksum"] = definition.Checksum.ToString(),
            ["nearby"] = new JsonArray([.. definition.Nearby.Select(n => (JsonNode)n)]),
        };
}
