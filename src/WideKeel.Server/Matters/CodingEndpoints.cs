using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Matters;
using WideKeel.Server.Content;
using WideKeel.Store;
using WideKeel.Store.Ledger;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <param name="Withholds">Whether what bears it stays out of bundles.</param>
/// <param name="Items">That bear it, or a document of which does.</param>
public sealed record TagView(long Id, string Name, bool Withholds, long Items);

public sealed record TagText(string Name, bool Withholds);

/// <param name="Document">Of the family, counted from 1; 0 for all of it.</param>
public sealed record CodeView(long ItemId, long TagId, int Document, string Note, string By, Instant At);

/// <param name="Attachments">Names of the documents after the message itself.</param>
public sealed record FamilyView(long ItemId, IReadOnlyList<string> Attachments);

/// <summary>Puts a tag on items, or takes it off.</summary>
/// <param name="Tag">Its id.</param>
/// <param name="On">False takes it off.</param>
/// <param name="Note">Why, where it is worth saying; the privilege log repeats it.</param>
/// <param name="Items">Ids; null means every item that the address chooses.</param>
/// <param name="Document">Of the family, counted from 1, where there is one item; 0 for the whole family.</param>
public sealed record CodingAct(
    long Tag,
    bool On,
    string Note = "",
    IReadOnlyList<long>? Items = null,
    int Document = Coding.WholeFamily
);

/// <param name="Items">Whose tags changed.</param>
public sealed record CodedView(long Items);

/// <summary>Coding: the tags of a matter and what bears them.</summary>
public static class CodingEndpoints
{
    private const int MostTags = 40;
    private const int MostNamed = 100;

    /// <summary>Ids of the tags of <c>$matter</c>.</summary>
    internal const string Own = "(SELECT Id FROM matter_tag WHERE MatterId = $matter)";

    public static void MapCoding(this IEndpointRouteBuilder api)
    {
        api.MapPost("/matters/{id:long}/tags", Add).RequiresSignIn();
        api.MapPut("/matters/{id:long}/tags/{tag:long}", Change).RequiresSignIn();
        api.MapDelete("/matters/{id:long}/tags/{tag:long}", Remove).RequiresSignIn();
        api.MapGet("/matters/{id:long}/tags/{tag:long}/items", Items).RequiresSignIn();
        api.MapPost("/matters/{id:long}/runs/{run:long}/coding", Code).RequiresSignIn();
    }

    internal static async Task<List<TagView>> TagsAsync(long matter, WideKeelDb db, CancellationToken cancel)
    {
        var tags = await db.MatterTags.AsNoTracking().Where(t => t.MatterId == matter).ToListAsync(cancel);
        var ids = tags.ConvertAll(t => t.Id);
        var items = await db
            .ItemTags.Where(t => ids.Contains(t.TagId))
            .GroupBy(t => t.TagId)
            .Select(g => new { g.Key, Items = g.Select(t => t.ItemId).Distinct().LongCount() })
            .ToDictionaryAsync(g => g.Key, g => g.Items, cancel);
        return
        [
            .. tags.OrderBy(t => t.Id)
                .Select(t => new TagView(t.Id, t.Name, t.Withholds, items.GetValueOrDefault(t.Id))),
        ];
    }

    internal static async Task<IReadOnlyList<CodeView>> OfItemsAsync(
        long matter,
        IReadOnlyCollection<long> items,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        await db
            .ItemTags.AsNoTracking()
            .Where(t => items.Contains(t.ItemId) && db.MatterTags.Any(k => k.Id == t.TagId && k.MatterId == matter))
            .OrderBy(t => t.ItemId)
            .ThenBy(t => t.Document)
            .ThenBy(t => t.TagId)
            .Select(t => new CodeView(t.ItemId, t.TagId, t.Document, t.Note, t.By, t.At))
            .ToListAsync(cancel);

    internal static async Task<IReadOnlyList<FamilyView>> FamiliesAsync(
        IReadOnlyCollection<long> items,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        (
            await db
                .Items.AsNoTracking()
                .Where(i => items.Contains(i.Id) && i.Attachments != null)
                .Select(i => new { i.Id, i.Attachments })
                .ToListAsync(cancel)
        ).ConvertAll(i => new FamilyView(i.Id, i.Attachments!.Split('\n')));

    private static Task<Reply<MatterView>> Add(long id, TagText request, [AsParameters] ApiContext context) =>
        MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Lead,
            context,
            async (session, _) =>
            {
                if (await CheckAsync(id, null, request, session.Db, context.Cancel) is { } wrong)
                {
                    return wrong;
                }

                var tag = new MatterTag
                {
                    MatterId = id,
                    Name = request.Name.Trim(),
                    Withholds = request.Withholds,
                };
                session.Db.MatterTags.Add(tag);
                session.Record("tag-made", MatterDoor.Subject(id), after: Json(tag));
                return null;
            },
            changes: true
        );

    private static Task<Reply<MatterView>> Change(
        long id,
        long tag,
        TagText request,
        [AsParameters] ApiContext context
    ) =>
        OnAsync(
            id,
            tag,
            context,
            async (session, known) =>
            {
                if (await CheckAsync(id, tag, request, session.Db, context.Cancel) is { } wrong)
                {
                    return wrong;
                }

                var before = Json(known);
                (known.Name, known.Withholds) = (request.Name.Trim(), request.Withholds);
                session.Record("tag-changed", MatterDoor.Subject(id), before, Json(known));
                return null;
            }
        );

    private static Task<Reply<MatterView>> Remove(long id, long tag, [AsParameters] ApiContext context) =>
        OnAsync(
            id,
            tag,
            context,
            async (session, known) =>
            {
                if (await session.Db.ItemTags.AnyAsync(t => t.TagId == tag, context.Cancel))
                {
                    return Refusal.Conflict(
                        "tag-in-use",
                        null,
                        $"Items bear “{known.Name}”; take it off them first, or rename it."
                    );
                }

                session.Db.MatterTags.Remove(known);
                session.Record("tag-removed", MatterDoor.Subject(id), Json(known));
                return null;
            }
        );

    /// <summary>A change of one tag by a lead.</summary>
    private static Task<Reply<MatterView>> OnAsync(
        long id,
        long tag,
        ApiContext context,
        Func<WriteSession, MatterTag, Task<Refusal?>> act
    ) =>
        MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Lead,
            context,
            async (session, _) =>
                await FindAsync(id, tag, session.Db, context.Cancel) is { } known
                    ? await act(session, known)
                    : Problems.NotFound("tag"),
            changes: true
        );

    private static Task<MatterTag?> FindAsync(long matter, long tag, WideKeelDb db, CancellationToken cancel) =>
        db.MatterTags.SingleOrDefaultAsync(t => t.Id == tag && t.MatterId == matter, cancel);

    /// <summary>The items that bear a tag, whatever run they were coded in.</summary>
    private static async Task<Reply<ItemPage>> Items(
        long id,
        long tag,
        string? cursor,
        [AsParameters] ApiContext context
    )
    {
        if (!context.Caller.Matters.ContainsKey(id) || await FindAsync(id, tag, context.Db, context.Cancel) is null)
        {
            return Problems.NotFound("tag");
        }

        var items = context
            .Db.Items.AsNoTracking()
            .Where(i => context.Db.ItemTags.Any(t => t.TagId == tag && t.ItemId == i.Id));
        return await OrderEndpoints.PageAsync(items, cursor, context);
    }

    private static async Task<Refusal?> CheckAsync(
        long matter,
        long? self,
        TagText request,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var name = request.Name.Trim();
        return name.Length is 0 or > 40 || name.Contains(';', StringComparison.Ordinal)
                ? new("name-malformed", "name", "A tag has a name of 1 to 40 characters without a semicolon.")
            : await db.MatterTags.AnyAsync(t => t.MatterId == matter && t.Id != self && t.Name == name, cancel)
                ? Refusal.Conflict("name-taken", "name", $"There is a tag “{name}” already.")
            : self is null && await db.MatterTags.CountAsync(t => t.MatterId == matter, cancel) >= MostTags
                ? Refusal.Conflict("tags-many", null, $"A matter has {MostTags} tags at most.")
            : null;
    }

    /// <summary>
    /// Codes what a run found: the items named, or all that the address chooses. What a matter is done with is coded no
    /// more.
    /// </summary>
    private static async Task<Reply<CodedView>> Code(
        long id,
        long run,
        CodingAct request,
        [AsParameters] HitChoice choice,
        [AsParameters] ApiContext context
    )
    {
        var chosen = await RunHits.ChoiceAsync(id, run, choice, context);
        if ((chosen.Refusal ?? Check(request)) is { } refusal)
        {
            return refusal;
        }

        return await MatterDoor.ChangeAsync<CodedView>(
            id,
            MemberPart.Reviewer,
            context.Caller,
            context.Writer,
            async (session, _) =>
            {
                if (await FindAsync(id, request.Tag, session.Db, context.Cancel) is not { } tag)
                {
                    return Problems.NotFound("tag");
                }

                var items = Chosen(session, chosen.Value, request.Items);
                if (request.Items is { } named && items.Count != named.Distinct().Count())
                {
                    return Problems.NotFound("item");
                }

                if (request.Document > 0 && !await HasAsync(items, request.Document, session.Db, context.Cancel))
                {
                    return Problems.NotFound("document");
                }

                var changed = Write(session, tag, request, items, context.Caller.Name);
                if (changed.Count > 0)
                {
                    session.Record(
                        request.On ? "coded" : "code-removed",
                        MatterDoor.Subject(id),
                        after: Coded(tag, request, run, changed)
                    );
                }

                return new CodedView(changed.Count);
            },
            context.Cancel,
            changes: true
        );
    }

    private static Refusal? Check(CodingAct request) =>
        request.Note.Length > 500 ? new("note-long", "note", "A note has 500 characters at most.")
        : request.Document < 0 || (request.Document > 0 && request.Items is not { Count: 1 })
            ? new("document-alone", "document", "A document is coded by itself in one item at a time.")
        : null;

    private static List<long> Chosen(
        WriteSession session,
        (string Where, Action<SqliteCommand> Bind, Store.Content.QuerySql? Query) chosen,
        IReadOnlyList<long>? named
    )
    {
        using var command = session.Command(
            $"SELECT i.Id FROM item i WHERE {chosen.Where}"
                + (named is null ? "" : " AND i.Id IN (SELECT value FROM json_each($named))")
        );
        chosen.Bind(command);
        command.Parameters.AddWithValue("$named", System.Text.Json.JsonSerializer.Serialize(named ?? []));
        using var reader = command.ExecuteReader();
        List<long> ids = [];
        while (reader.Read())
        {
            ids.Add(reader.GetInt64(0));
        }

        return ids;
    }

    private static async Task<bool> HasAsync(List<long> items, int document, WideKeelDb db, CancellationToken cancel)
    {
        var attachments = await db.Items.Where(i => i.Id == items[0]).Select(i => i.Attachments).SingleAsync(cancel);
        return document <= 1 + (attachments?.Split('\n').Length ?? 0);
    }

    /// <summary>The items whose tags changed, by one statement for all of them.</summary>
    private static List<long> Write(WriteSession session, MatterTag tag, CodingAct request, List<long> items, string by)
    {
        using var command = session.Command(
            request.On
                ? """
                INSERT INTO matter_item_tag (TagId, ItemId, Document, Note, "By", At)
                SELECT $code, value, $document, $note, $by, $at FROM json_each($items) WHERE TRUE
                ON CONFLICT (TagId, ItemId, Document) DO UPDATE SET Note = $note, "By" = $by, At = $at
                WHERE Note <> $note RETURNING ItemId
                """
                : """
                DELETE FROM matter_item_tag WHERE TagId = $code AND ($document = 0 OR Document = $document)
                AND ItemId IN (SELECT value FROM json_each($items)) RETURNING ItemId
                """
        );
        command.Parameters.AddWithValue("$code", tag.Id);
        command.Parameters.AddWithValue("$document", request.Document);
        command.Parameters.AddWithValue("$note", request.Note.Trim());
        command.Parameters.AddWithValue("$by", by);
        command.Parameters.AddWithValue("$at", session.Now.ToUnixTimeMilliseconds());
        command.Parameters.AddWithValue("$items", System.Text.Json.JsonSerializer.Serialize(items));
        using var reader = command.ExecuteReader();
        HashSet<long> changed = [];
        while (reader.Read())
        {
            changed.Add(reader.GetInt64(0));
        }

        return [.. changed.Order()];
    }

    private static JsonObject Coded(MatterTag tag, CodingAct request, long run, List<long> items)
    {
        var said = new JsonObject
        {
            ["tag"] = tag.Name,
            ["items"] = items.Count,
            ["run"] = run,
        };
        if (items.Count <= MostNamed)
        {
            said["ids"] = new JsonArray([.. items.Select(i => (JsonNode)i)]);
        }

        if (request.Document > 0)
        {
            said["document"] = request.Document;
        }

        if (request.Note.Trim().Length > 0)
        {
            said["note"] = request.Note.Trim();
        }

        return said;
    }

    private static JsonObject Json(MatterTag tag) => new() { ["tag"] = tag.Name, ["withholds"] = tag.Withholds };
}
