using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

/// <param name="Query">The query part of the list's address: search, filters, sort.</param>
/// <param name="Place">What it searches; it stays when a view is changed.</param>
public sealed record ViewDefinition(string Name, string Query, bool Shared, ViewPlace Place = ViewPlace.Content);

public sealed record ViewView(long Id, string Name, string Query, bool Shared, bool Own, string By, long Revision)
    : IRevised;

/// <summary>
/// Searches that people keep: their own, and those that others share. A shared view shows each person only what they
/// may see.
/// </summary>
public static class ViewEndpoints
{
    private const int MostCharacters = 10_000;
    private const int MostOwn = 500;

    public static void MapViews(this IEndpointRouteBuilder api)
    {
        api.MapGet("/views", List).RequiresSignIn();
        api.MapPost("/views", Keep).RequiresSignIn();
        api.MapPut("/views/{id:long}", Change).RequiresSignIn();
        api.MapDelete("/views/{id:long}", Drop).RequiresSignIn();
    }

    /// <summary>Whether somebody may search there at all.</summary>
    private static bool May(Caller caller, ViewPlace place) =>
        caller.May(place == ViewPlace.Content ? Right.ReadContent : Right.ReadActivity);

    /// <param name="place">As <see cref="ViewPlace"/> names it; content where it is missing.</param>
    private static async Task<Reply<IReadOnlyList<ViewView>>> List(
        string? place,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        if (QueryWord.Read<ViewPlace>(place, "place", out var named) is { } refusal)
        {
            return refusal;
        }

        var of = named ?? ViewPlace.Content;
        return !May(caller, of)
            ? (Outcome<IReadOnlyList<ViewView>>)new List<ViewView>()
            : (Outcome<IReadOnlyList<ViewView>>)
                await (
                    from v in db.SavedViews.AsNoTracking()
                    join p in db.Users on v.OwnerId equals p.Id
                    where v.Place == of && (v.Shared || v.OwnerId == caller.PersonId)
                    orderby v.OwnerId != caller.PersonId, v.Name
                    select new ViewView(
                        v.Id,
                        v.Name,
                        v.Query,
                        v.Shared,
                        v.OwnerId == caller.PersonId,
                        p.DisplayName,
                        v.Revision
                    )
                ).ToListAsync(cancel);
    }

    private static async Task<Reply<ViewView>> Keep(
        ViewDefinition request,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<ViewView>(
            caller.Actor,
            async session =>
            {
                if (!May(caller, request.Place))
                {
                    return Problems.NotFound("place");
                }

                if (Check(request) is { } refusal)
                {
                    return refusal;
                }

                if (await session.Db.SavedViews.CountAsync(v => v.OwnerId == caller.PersonId, cancel) >= MostOwn)
                {
                    return new Refusal("too-many-views", null, $"You keep {MostOwn} views already; drop one first.");
                }

                if (await TakenAsync(session, caller, request.Name, request.Place, 0, cancel) is { } taken)
                {
                    return taken;
                }

                var view = new SavedView
                {
                    OwnerId = caller.PersonId,
                    Name = request.Name.Trim(),
                    Query = request.Query,
                    Shared = request.Shared,
                    Place = request.Place,
                };
                session.Db.SavedViews.Add(view);
                await session.Db.SaveChangesAsync(cancel);
                session.Record("kept", Subject(view.Id), after: Json(view));
                return ViewOf(view, caller);
            },
            cancel
        );

    private static async Task<Reply<ViewView>> Change(
        long id,
        ViewDefinition request,
        [AsParameters] ApiContext context
    ) =>
        await context.Writer.RunAsync<ViewView>(
            context.Caller.Actor,
            async session =>
            {
                var view = await session.Db.SavedViews.SingleOrDefaultAsync(
                    v => v.Id == id && v.OwnerId == context.Caller.PersonId,
                    context.Cancel
                );
                if (view is null)
                {
                    return Problems.NotFound("view of yours");
                }

                if (
                    (
                        Problems.CheckMatch(context.Http, view.Revision)
                        ?? Check(request)
                        ?? await TakenAsync(session, context.Caller, request.Name, view.Place, id, context.Cancel)
                    ) is
                    { } refusal
                )
                {
                    return refusal;
                }

                var before = Json(view);
                (view.Name, view.Query, view.Shared, view.Revision) = (
                    request.Name.Trim(),
                    request.Query,
                    request.Shared,
                    view.Revision + 1
                );
                session.Record("changed", Subject(id), before, Json(view));
                return ViewOf(view, context.Caller);
            },
            context.Cancel
        );

    private static async Task<Reply<Done>> Drop(
        long id,
        HttpContext http,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<Done>(
            caller.Actor,
            async session =>
            {
                var view = await session.Db.SavedViews.SingleOrDefaultAsync(
                    v => v.Id == id && v.OwnerId == caller.PersonId,
                    cancel
                );
                if (view is null)
                {
                    return Problems.NotFound("view of yours");
                }

                if (Problems.CheckMatch(http, view.Revision) is { } stale)
                {
                    return stale;
                }

                session.Record("dropped", Subject(id), Json(view));
                session.Db.SavedViews.Remove(view);
                return new Done();
            },
            cancel
        );

    private static Refusal? Check(ViewDefinition request) =>
        string.IsNullOrWhiteSpace(request.Name) || request.Name.Length > 100
            ? new("view-name", "name", "A view needs a name of at most 100 characters.")
        : request.Query.Length > MostCharacters
            ? new(
                "view-too-long",
                "query",
                string.Create(CultureInfo.InvariantCulture, $"A view has at most {MostCharacters:N0} characters.")
            )
        : null;

    private static async Task<Refusal?> TakenAsync(
        WriteSession session,
        Caller caller,
        string name,
        ViewPlace place,
        long except,
        CancellationToken cancel
    ) =>
        await session.Db.SavedViews.AnyAsync(
            v => v.OwnerId == caller.PersonId && v.Place == place && v.Id != except && v.Name == name.Trim(),
            cancel
        )
            ? Refusal.Conflict("view-taken", "name", $"You keep a view named “{name.Trim()}” already.")
            : null;

    private static ViewView ViewOf(SavedView view, Caller caller) =>
        new(view.Id, view.Name, view.Query, view.Shared, true, caller.Name, view.Revision);

    private static Core.Ledger.LedgerSubject Subject(long id) => new("view", id.ToString(CultureInfo.InvariantCulture));

    private static JsonObject Json(SavedView view) =>
        new()
        {
            ["name"] = view.Name,
            ["query"] = view.Query,
            ["shared"] = view.Shared,
            ["place"] = view.Place.ToString(),
        };
}
