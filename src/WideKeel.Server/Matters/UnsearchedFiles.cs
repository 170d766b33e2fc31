using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.Matters;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>A file of which not every word is known.</summary>
/// <param name="ItemId">Null where a scan met it and could not take it in.</param>
public sealed record UnreadableFile(string Source, string Path, string Reason, long? ItemId);

/// <summary>Files in the places of a sweep of which not every word can be searched.</summary>
internal static class UnsearchedFiles
{
    private const int MostUnreadable = 1_000;

    /// <summary>What could not be read in the places of a run, as the last scans of their sources left it.</summary>
    public static async Task<Reply<IReadOnlyList<UnreadableFile>>> List(
        long id,
        long run,
        [AsParameters] ApiContext context
    )
    {
        if (await RunHits.RunAsync(id, run, context.Caller, context.Db, context.Cancel) is not { } known)
        {
            return Problems.NotFound("run");
        }

        var query = await HoldQuery.OfAsync(
            known.Definition with
            {
                Query = null,
            },
            id,
            context.Db,
            context.Calendar,
            context.Cancel
        );
        if (query.Refusal is { } mistake)
        {
            return mistake;
        }

        var files = await UnreadableIn(context.Db, query.Value)
            .Join(
                context.Db.Sources,
                u => u.SourceId,
                s => s.Id,
                (u, s) =>
                    new
                    {
                        Source = s.Name,
                        u.Path,
                        u.Reason,
                    }
            )
            .OrderBy(u => u.Source)
            .ThenBy(u => u.Path)
            .Take(MostUnreadable)
            .Select(u => new UnreadableFile(u.Source, u.Path, u.Reason, null))
            .ToListAsync(context.Cancel);
        var items = query
            .Value.Rows(
                (SqliteConnection)context.Db.Database.GetDbConnection(),
                "SELECT s.Name, i.Path, (SELECT l.\"Limit\" FROM item_text l WHERE l.ItemId = i.Id), i.Type, i.Id "
                    + $"{Unsearched} ORDER BY s.Name, i.Path LIMIT $most",
                command => command.Parameters.AddWithValue("$most", MostUnreadable - files.Count)
            )
            .Select(r => new UnreadableFile(
                r.GetString(0),
                r.GetString(1),
                r.IsDBNull(2) ? TextlessWords(r.GetString(3)) : r.GetString(2),
                r.GetInt64(4)
            ));
        return (Outcome<IReadOnlyList<UnreadableFile>>)
            files.Concat(items).Concat(await FormerUnreadAsync(query.Value, context)).Take(MostUnreadable).ToList();
    }

    private static async Task<IEnumerable<UnreadableFile>> FormerUnreadAsync(HoldQuery query, ApiContext context)
    {
        var places = await CustodianEndpoints.ContainerNamesAsync(context.Db, context.Cancel);
        return (await FormerVersions.UnsearchedAsync(context.Db, query, context.Cancel)).Select(c => new UnreadableFile(
            places[c.Facts.ContainerId].Source,
            c.Facts.Path,
            FormerWords(c.Facts.Searchable),
            c.ItemId
        ));
    }

    private static string FormerWords(Searchable searchable) =>
        searchable switch
        {
            Searchable.Password => "An earlier content of it is protected with a password.",
            Searchable.Scan => "An earlier content of it has no text, as in a scan.",
            Searchable.Part => "Of an earlier content of it not all text was read.",
            _ => "Of an earlier content of it no text was read.",
        };

    public static string TextlessWords(string type) =>
        Sources.TextExtraction.Reads(type)
            ? "There is no text in it, as in a picture of pages; its words cannot be searched."
            : $"No text is drawn from {(type.Length == 0 ? "a file without a type" : $"files of the type {type}")}.";

    /// <summary>
    /// Items in the places and dates that are asked of which not every word is known: what is damaged, cut or too large to
    /// be read whole, and what has no text.
    /// </summary>
    public const string Unsearched =
        "FROM item i JOIN container c ON c.Id = i.ContainerId JOIN source s ON s.Id = c.SourceId WHERE {reach} AND i.Bytes > "
        + "0 AND (i.Id IN (SELECT t.ItemId FROM item_text t WHERE t.\"Limit\" IS NOT NULL OR t.Text = '') OR NOT EXISTS "
        + "(SELECT 1 FROM item_text a WHERE a.ItemId = i.Id))";

    /// <summary>What lies in the places that are asked and could not be read.</summary>
    public static IQueryable<Store.Content.Unreadable> UnreadableIn(WideKeelDb db, HoldQuery query) =>
        from u in db.Unreadables.AsNoTracking()
        where
            query.Containers == null
            || db.Containers.Any(c =>
                c.SourceId == u.SourceId
                && query.Containers.Contains(c.Id)
                && (u.Path == c.Name || u.Path.StartsWith(c.Name + "/"))
            )
        select u;
}
