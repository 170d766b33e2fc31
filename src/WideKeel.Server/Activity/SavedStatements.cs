using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <param name="Days">Days that <c>$from</c> and <c>$before</c> span, up to the day of the run; null for all time.</param>
/// <param name="LastSaid">What the last run by itself said.</param>
public sealed record SavedStatementView(
    long Id,
    string Name,
    string Sql,
    IReadOnlyList<StatementParameter> Parameters,
    int? Days,
    StatementRhythm? Rhythm,
    LocalDate? LastRunOn,
    string? LastSaid,
    bool LastFailed
)
{
    public static SavedStatementView Of(SavedStatement row) =>
        new(
            row.Id,
            row.Name,
            row.Sql,
            SavedStatements.ParametersOf(row),
            row.Days,
            row.Rhythm,
            row.LastRunOn,
            row.LastSaid,
            row.LastFailed
        );
}

/// <param name="Days">See <see cref="SavedStatementView"/>.</param>
public sealed record SavedStatementRequest(
    string Name,
    string Sql,
    IReadOnlyList<StatementParameter>? Parameters = null,
    int? Days = null
);

/// <param name="Rhythm">Null: it is asked by itself no more.</param>
public sealed record StatementSchedule(StatementRhythm? Rhythm);

/// <summary>Statements that a person keeps, with their parameters, and asks again and again by a schedule.</summary>
public static partial class SavedStatements
{
    private const int MostOwn = 500;
    private const int MostParameters = 50;
    private const int MostDays = 36_500;

    public static void MapSavedStatements(this IEndpointRouteBuilder api)
    {
        api.MapPost("/statements", Save).Requires(Right.ReadActivity);
        api.MapDelete("/statements/{id:long}", Drop).Requires(Right.ReadActivity);
        api.MapPut("/statements/{id:long}/schedule", Schedule).Requires(Right.ReadActivity);
    }

    internal static IReadOnlyList<StatementParameter> ParametersOf(SavedStatement row) =>
        JsonSerializer.Deserialize<StatementParameter[]>(row.Parameters, JsonSerializerOptions.Web) ?? [];

    private static async Task<Reply<Done>> Save(SavedStatementRequest request, [AsParameters] ApiContext context)
    {
        if (Malformed(request) is { } malformed)
        {
            return malformed;
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var own = session.Db.Statements.Where(s => s.PersonId == context.Caller.PersonId);
                var there = await own.SingleOrDefaultAsync(s => s.Name == request.Name, context.Cancel);
                if (there is null && await own.CountAsync(context.Cancel) >= MostOwn)
                {
                    return new Refusal("too-many-statements", null, $"You keep {MostOwn} statements; drop one first.");
                }

                if (there is null)
                {
                    session.Db.Statements.Add(
                        there = new()
                        {
                            PersonId = context.Caller.PersonId,
                            Name = request.Name,
                            Sql = request.Sql,
                        }
                    );
                }

                // Another question has other rows: none of them was seen, and all would be new.
                var parameters = JsonSerializer.Serialize(request.Parameters ?? [], JsonSerializerOptions.Web);
                if (
                    there.Rhythm is not null
                    && (there.Sql, there.Days, there.Parameters) != (request.Sql, request.Days, parameters)
                )
                {
                    return Refusal.Conflict(
                        "statement-scheduled",
                        "sql",
                        $"“{there.Name}” is asked by itself. End that first, or keep this statement under another name."
                    );
                }

                there.Sql = request.Sql;
                there.Days = request.Days;
                there.Parameters = parameters;
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record(
                    "kept",
                    LedgerSubject.Of("statement", there.Id),
                    after: new JsonObject { ["name"] = there.Name, ["sql"] = there.Sql }
                );
                return new Done();
            },
            context.Cancel
        );
    }

    private static Refusal? Malformed(SavedStatementRequest request)
    {
        if (string.IsNullOrWhiteSpace(request.Name) || request.Name.Length > 200)
        {
            return new("name-missing", "name", "A statement needs a name of at most 200 characters.");
        }

        if (request.Days is < 1 or > MostDays)
        {
            return new("days-out-of-range", "days", $"A statement spans 1 to {MostDays:N0} days, or all time.");
        }

        var parameters = request.Parameters ?? [];
        if (parameters.Count > MostParameters || parameters.Any(p => !AName().IsMatch(p.Name)))
        {
            return new(
                "parameters-malformed",
                "parameters",
                $"A statement has at most {MostParameters} parameters, each named by letters, digits and underscores."
            );
        }

        return parameters.Select(p => p.Read().Refusal).FirstOrDefault(r => r is not null);
    }

    private static async Task<Reply<Done>> Drop(long id, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await OwnAsync(id, session.Db, context) is not { } there)
                {
                    return Problems.NotFound("statement of yours");
                }

                session.Db.Statements.Remove(there);
                session.Record("dropped", LedgerSubject.Of("statement", id), new JsonObject { ["name"] = there.Name });
                return new Done();
            },
            context.Cancel
        );

    /// <summary>
    /// From now on it is asked by itself. It is asked at once as well, so that one without an answer is refused, and so that
    /// what stands there already is not new tomorrow.
    /// </summary>
    private static async Task<Reply<Done>> Schedule(
        long id,
        StatementSchedule request,
        StatementEngine engine,
        [AsParameters] ApiContext context
    )
    {
        if (await OwnAsync(id, context.Db, context) is not { } asked)
        {
            return Problems.NotFound("statement of yours");
        }

        byte[]? seen = null;
        if (request.Rhythm is not null)
        {
            var answer = await StatementRun.AskAsync(asked, engine, StatementGround.Of(context));
            if (answer.Refusal is { } refusal)
            {
                return refusal;
            }

            seen = answer.Value.Seen;
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await OwnAsync(id, session.Db, context) is not { } there)
                {
                    return Problems.NotFound("statement of yours");
                }

                there.Rhythm = request.Rhythm;
                there.SeenRows = seen;
                there.LastRunOn = seen is null ? null : context.Calendar.Today;
                there.LastSaid = null;
                there.LastFailed = false;
                session.Record(
                    "scheduled",
                    LedgerSubject.Of("statement", id),
                    after: new JsonObject
                    {
                        ["name"] = there.Name,
                        ["rhythm"] = request.Rhythm?.ToString().ToLowerInvariant(),
                    }
                );
                return new Done();
            },
            context.Cancel
        );
    }

    private static Task<SavedStatement?> OwnAsync(long id, Store.WideKeelDb db, ApiContext context) =>
        db.Statements.SingleOrDefaultAsync(s => s.Id == id && s.PersonId == context.Caller.PersonId, context.Cancel);

    [GeneratedRegex("^[A-Za-z_][A-Za-z0-9_]{0,39}$")]
    private static partial Regex AName();
}
