using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Server.Activity;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Question">
/// A SELECT whose rows are what is looked at: <c>id</c>, <c>ok</c>, and name, unit, why, link where wanted; or a query in CQL
/// whose number is looked at.
/// </param>
/// <param name="Least">Of a query: how many it must find at least; null for no bound.</param>
/// <param name="Most">Of a query: how many it may find at most; null for no bound.</param>
public sealed record OwnQuestion(MeasureOver Over, string Question, int? Least = null, int? Most = null);

/// <param name="Says">What it counts, as a sentence.</param>
public sealed record OwnMeasureRequest(string Title, string Says, string Area, OwnQuestion Asks);

/// <param name="By">Who wrote it last: it sees what they may read.</param>
public sealed record OwnMeasureView(long Id, string Name, OwnMeasureRequest Measure, string By, long Revision)
    : IRevised;

/// <param name="Subjects">What is wrong first; at most 100.</param>
public sealed record MeasureTrial(int Right, int Of, IReadOnlyList<MeasuredSubject> Subjects);

/// <summary>Measures in SQL and CQL: tried, kept, changed, and dropped where nothing rests on them.</summary>
public static class OwnMeasureEndpoints
{
    private const int MostTried = 100;

    public static void MapOwnMeasures(this IEndpointRouteBuilder api)
    {
        api.MapGet("/own-measures", List).Requires(Right.ReadReadiness);
        api.MapPost("/own-measures/trial", Try).Requires(Right.ManageReadiness);
        api.MapPost("/own-measures", Make).Requires(Right.ManageReadiness);
        api.MapPut("/own-measures/{id:long}", Change).Requires(Right.ManageReadiness);
        api.MapDelete("/own-measures/{id:long}", Drop).Requires(Right.ManageReadiness);
    }

    private static async Task<Reply<IReadOnlyList<OwnMeasureView>>> List([AsParameters] ApiContext context)
    {
        var people = await context.Db.Users.ToDictionaryAsync(p => p.Id, p => p.DisplayName, context.Cancel);
        return (Outcome<IReadOnlyList<OwnMeasureView>>)
            (await context.Db.OwnMeasures.AsNoTracking().OrderBy(m => m.Title).ToListAsync(context.Cancel)).ConvertAll(
                m => View(m, people.GetValueOrDefault(m.PersonId, ""))
            );
    }

    private static OwnMeasureView View(OwnMeasureRow row, string by) =>
        new(
            row.Id,
            OwnMeasures.NameOf(row),
            new(row.Title, row.Says, row.Area, new(row.Over, row.Question, row.Least, row.Most)),
            by,
            row.Version
        );

    private static async Task<Reply<MeasureTrial>> Try(
        OwnQuestion request,
        StatementEngine engine,
        [AsParameters] ApiContext context
    )
    {
        var answer = await OwnMeasures.AskAsync(request, engine, StatementGround.Of(context));
        return answer.Refused
            ? answer.Refusal!
            : new MeasureTrial(
                answer.Value.Count(s => s.Right),
                answer.Value.Count,
                [.. answer.Value.OrderBy(s => s.Right).ThenBy(s => s.Name, StringComparer.Ordinal).Take(MostTried)]
            );
    }

    /// <summary>Refused where the words are missing, or the statement has no answer for whoever keeps it.</summary>
    private static async Task<Refusal?> CheckAsync(
        OwnMeasureRequest request,
        StatementEngine engine,
        ApiContext context
    )
    {
        if (string.IsNullOrWhiteSpace(request.Title) || request.Title.Length > 200)
        {
            return new("title-missing", "title", "A measure needs a title of at most 200 characters.");
        }

        if (request.Says.Length > 1_000)
        {
            return new("text-too-long", "says", "What it counts is said in at most 1,000 characters.");
        }

        return ControlEndpoints.Areas.Contains(request.Area)
            ? (await OwnMeasures.AskAsync(request.Asks, engine, StatementGround.Of(context))).Refusal
            : new("area-unknown", "area", $"“{request.Area}” is none of {string.Join(", ", ControlEndpoints.Areas)}.");
    }

    private static Task<Reply<OwnMeasureView>> Make(
        OwnMeasureRequest request,
        StatementEngine engine,
        [AsParameters] ApiContext context
    ) =>
        KeepAsync(
            request,
            engine,
            context,
            session =>
            {
                var row = new OwnMeasureRow
                {
                    Title = "",
                    Area = "",
                    Question = "",
                };
                session.Db.OwnMeasures.Add(row);
                return Task.FromResult<Outcome<OwnMeasureRow>>(row);
            }
        );

    private static Task<Reply<OwnMeasureView>> Change(
        long id,
        OwnMeasureRequest request,
        StatementEngine engine,
        [AsParameters] ApiContext context
    ) =>
        KeepAsync(
            request,
            engine,
            context,
            async session =>
                await session.Db.OwnMeasures.FindAsync([id], context.Cancel) is not { } row
                    ? Problems.NotFound("measure")
                : Problems.CheckMatch(context.Http, row.Version) is { } stale ? stale
                : row
        );

    /// <summary>Writes what was asked into a row that is there or is made. It is tried before the change begins.</summary>
    private static async Task<Reply<OwnMeasureView>> KeepAsync(
        OwnMeasureRequest request,
        StatementEngine engine,
        ApiContext context,
        Func<WriteSession, Task<Outcome<OwnMeasureRow>>> find
    )
    {
        if (await CheckAsync(request, engine, context) is { } refusal)
        {
            return refusal;
        }

        return await context.Writer.RunAsync<OwnMeasureView>(
            context.Caller.Actor,
            async session =>
            {
                var found = await find(session);
                if (found.Refused)
                {
                    return found.Refusal!;
                }

                var row = found.Value;
                var before = row.Id == 0 ? null : Described(row);
                (row.Title, row.Says, row.Area, row.PersonId) = (
                    request.Title.Trim(),
                    request.Says.Trim(),
                    request.Area,
                    context.Caller.PersonId
                );
                (row.Over, row.Question, row.Least, row.Most) = request.Asks;
                row.Version += before is null ? 0 : 1;
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record(before is null ? "made" : "changed", Subject(row.Id), before, Described(row));
                return View(row, context.Caller.Name);
            },
            context.Cancel
        );
    }

    private static async Task<Reply<Done>> Drop(long id, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await session.Db.OwnMeasures.FindAsync([id], context.Cancel) is not { } row)
                {
                    return Problems.NotFound("measure");
                }

                var name = OwnMeasures.NameOf(row);
                var gauge = await session
                    .Db.Gauges.Where(g => g.Measure == name)
                    .Select(g => g.Name)
                    .FirstOrDefaultAsync(context.Cancel);
                var part = await session
                    .Db.ControlParts.Where(p => p.Kind == PartKind.Test && p.Measure == name)
                    .Select(p => p.Title)
                    .FirstOrDefaultAsync(context.Cancel);
                if ((gauge ?? part) is { } use)
                {
                    return Refusal.Conflict(
                        "measure-in-use",
                        null,
                        $"“{use}” rests on this measure; remove that first."
                    );
                }

                session.Db.OwnMeasures.Remove(row);
                session.Record("removed", Subject(id), Described(row));
                return new Done();
            },
            context.Cancel
        );

    private static JsonObject Described(OwnMeasureRow row) =>
        new()
        {
            ["title"] = row.Title,
            ["says"] = row.Says,
            ["area"] = row.Area,
            ["over"] = row.Over.ToString().ToLowerInvariant(),
            ["question"] = row.Question,
            ["least"] = row.Least,
            ["most"] = row.Most,
        };

    private static LedgerSubject Subject(long id) => LedgerSubject.Of("measure", id);
}
