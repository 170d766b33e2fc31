using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.Content;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <param name="Folder">Beneath the container; empty for all of it.</param>
public sealed record FilingDefaultView(
    long Id,
    long ContainerId,
    string Container,
    string Folder,
    SeriesRef Series,
    bool MayWrite
);

/// <summary>The default of a place; a null series takes it away.</summary>
/// <param name="Confirmed">Needed for a WORM series: all that arrives there comes under it for good.</param>
public sealed record NewFilingDefault(long ContainerId, string Folder, long? SeriesId, bool? Confirmed = null);

/// <summary>
/// Under which series new items of a container or folder are filed. What lies there already is filed from its list,
/// with consequences.
/// </summary>
public static class FilingDefaultEndpoints
{
    public static void MapFilingDefaults(this IEndpointRouteBuilder api)
    {
        api.MapGet("/filing-defaults", List).Requires(Right.ReadSchedule);
        api.MapPut("/filing-defaults", Set).Requires(Right.WriteSchedule);
    }

    /// <summary>The default that holds for an item: of its deepest folder that has one.</summary>
    internal static FilingDefault? Of(IEnumerable<FilingDefault> defaults, Item item)
    {
        var within = item.Path.IndexOf('/', StringComparison.Ordinal) is var slash and > 0
            ? item.Path[(slash + 1)..]
            : item.Path;
        return defaults
            .Where(d =>
                d.ContainerId == item.ContainerId
                && (d.Folder.Length == 0 || within.StartsWith(d.Folder + "/", StringComparison.Ordinal))
            )
            .MaxBy(d => d.Folder.Length);
    }

    private static async Task<Reply<IReadOnlyList<FilingDefaultView>>> List(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var rows = await (
            from d in db.FilingDefaults.AsNoTracking()
            join c in db.Containers on d.ContainerId equals c.Id
            join s in db.Series on d.SeriesId equals s.Id
            orderby c.Name, d.Folder
            select new
            {
                d,
                Container = c.Name,
                c.UnitId,
                s.Code,
                s.Title,
            }
        ).ToListAsync(cancel);
        return (Outcome<IReadOnlyList<FilingDefaultView>>)
            rows.Where(r => caller.May(Right.ReadSchedule, r.UnitId))
                .Select(r => new FilingDefaultView(
                    r.d.Id,
                    r.d.ContainerId,
                    r.Container,
                    r.d.Folder,
                    new(r.d.SeriesId, r.Code, r.Title),
                    caller.May(Right.WriteSchedule, r.UnitId)
                ))
                .ToList();
    }

    private static async Task<Reply<Done>> Set(
        NewFilingDefault request,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<Done>(
            caller.Actor,
            async session =>
            {
                var container = await session.Db.Containers.SingleOrDefaultAsync(
                    c => c.Id == request.ContainerId,
                    cancel
                );
                if (container is null || caller.Check(Right.WriteSchedule, container.UnitId, "container") is not null)
                {
                    return Problems.NotFound("container");
                }

                var folder = (request.Folder ?? "").Trim().Trim('/');
                if (folder.Length > 500 || folder.Split('/').Any(p => p is ".." or "."))
                {
                    return new Refusal(
                        "folder-malformed",
                        "folder",
                        "A folder is a path beneath the container, such as 2026/spring."
                    );
                }

                var series = await session.Db.Series.SingleOrDefaultAsync(s => s.Id == request.SeriesId, cancel);
                if (request.SeriesId is not null && Check(request, series, container, caller) is { } not)
                {
                    return not;
                }

                var known = await session
                    .Db.FilingDefaults.Include(d => d.Series)
                    .SingleOrDefaultAsync(d => d.ContainerId == container.Id && d.Folder == folder, cancel);
                session.Record(
                    series is null ? "default-removed" : "default-set",
                    new(
                        "container",
                        container.Id.ToString(CultureInfo.InvariantCulture),
                        caller.PathOf(container.UnitId).Value
                    ),
                    known is null ? null : new JsonObject { ["folder"] = folder, ["series"] = known.Series!.Code },
                    series is null ? null : new JsonObject { ["folder"] = folder, ["series"] = series.Code }
                );
                Put(session, known, (container.Id, folder), series, caller);
                return new Done();
            },
            cancel
        );

    /// <param name="series">Null takes the default away.</param>
    private static void Put(
        WriteSession session,
        FilingDefault? known,
        (long Container, string Folder) at,
        Series? series,
        Caller caller
    )
    {
        if (series is not null)
        {
            known ??= session.Db.FilingDefaults.Add(new() { ContainerId = at.Container, Folder = at.Folder }).Entity;
            (known.SeriesId, known.SetById) = (series.Id, caller.PersonId);
        }
        else if (known is not null)
        {
            session.Db.FilingDefaults.Remove(known);
        }
    }

    /// <summary>Whether what comes into a container may be filed under a series.</summary>
    private static Refusal? Check(NewFilingDefault request, Series? series, Container container, Caller caller)
    {
        if (series is null || !caller.MaySee(Right.ReadSchedule, series.UnitId))
        {
            return Problems.NotFound("series");
        }

        if (series.State == SeriesState.Retired)
        {
            return Refusal.Conflict(
                "series-retired",
                "seriesId",
                $"{series.Code} is retired; nothing new is filed under it."
            );
        }

        if (!caller.PathOf(series.UnitId).Covers(caller.PathOf(container.UnitId)))
        {
            return new("outside-the-series", "seriesId", $"{series.Code} does not cover the unit of this container.");
        }

        return series.InForce?.Grade == Core.Content.Grade.Worm && request.Confirmed != true
            ? SeriesGuard.Unconfirmed(series.Code)
            : null;
    }
}
