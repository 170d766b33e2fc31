using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Server.Jobs;
using WideKeel.Server.Notifications;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>The answer of a statement that is asked by itself.</summary>
/// <param name="New">The rows that the last answer did not have, as “column value, column value”; the first ones of them.</param>
/// <param name="Seen">Of every row the first 16 bytes of its SHA-256.</param>
internal sealed record StatementAnswer(int Rows, int NewRows, IReadOnlyList<string> New, byte[] Seen);

/// <summary>Asks a statement with the rights that its person has now, and finds what the last answer did not have.</summary>
internal static class StatementRun
{
    /// <summary>Rows that a message shows.</summary>
    public const int MostShown = 20;

    private const int MostRows = 100_000;
    private const int HashBytes = 16;

    public static async Task<Outcome<StatementAnswer>> AskAsync(
        SavedStatement statement,
        StatementEngine engine,
        StatementGround ground
    )
    {
        HashSet<Int128> before = [.. Hashes(statement.SeenRows ?? [])];
        List<string> shown = [];
        using var seen = new MemoryStream();
        var (rows, fresh) = (0, 0);
        var refusal = await engine.RunAsync(
            new(statement.Sql, [.. Span(statement.Days, ground.Calendar), .. SavedStatements.ParametersOf(statement)]),
            ground,
            async answer =>
            {
                await foreach (var cells in answer.ReadAsync())
                {
                    if (++rows > MostRows)
                    {
                        break;
                    }

                    var hash = SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes(cells))[..HashBytes];
                    seen.Write(hash);
                    if (!before.Contains(Hashes(hash).Single()) && fresh++ < MostShown)
                    {
                        shown.Add(
                            string.Join(
                                ", ",
                                cells.Select((c, i) => $"{answer.Columns[i].Name} {c?.ToString() ?? "–"}")
                            )
                        );
                    }
                }
            }
        );
        return refusal is not null ? refusal
            : rows > MostRows
                ? new Refusal(
                    "too-many-rows",
                    "sql",
                    $"A statement that is asked by itself gives at most {MostRows.ToString("N0", CultureInfo.InvariantCulture)} rows."
                )
            : new StatementAnswer(rows, fresh, shown, seen.ToArray());
    }

    /// <summary><c>$from</c> and <c>$before</c> for so many days up to the end of today, in UTC.</summary>
    private static StatementParameter[] Span(int? days, OrganisationCalendar calendar)
    {
        var end = calendar.Today.PlusDays(1);
        var begin = days is { } number ? end.PlusDays(-number) : new LocalDate(1, 1, 1);
        return
        [
            new("from", StatementValue.Moment, MomentOf(begin)),
            new("before", StatementValue.Moment, MomentOf(end)),
        ];
    }

    private static string MomentOf(LocalDate day) =>
        InstantPattern.ExtendedIso.Format(day.AtStartOfDayInZone(DateTimeZone.Utc).ToInstant());

    private static IEnumerable<Int128> Hashes(byte[] bytes) =>
        bytes.Chunk(HashBytes).Select(c => System.Buffers.Binary.BinaryPrimitives.ReadInt128BigEndian(c));
}

/// <summary>Asks the statements whose day it is, and writes to their persons what is new.</summary>
public sealed class StatementJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    StatementEngine engine,
    OrganisationCalendar calendar
) : IJob
{
    public static readonly JobKind JobKind = new("statements", Lane: "activity", Changes: "statements");

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var today = calendar.Today;
        var due = (
            await db.Statements.AsNoTracking().Where(s => s.Rhythm != null).OrderBy(s => s.Id).ToListAsync(cancel)
        )
            .Where(s => s.LastRunOn is not { } last || Next(s.Rhythm!.Value, last) <= today)
            .ToList();
        for (var i = 0; i < due.Count; i++)
        {
            await RunAsync(run, due[i], cancel);
            await run.ReportAsync(i + 1, due.Count, null, cancel);
        }

        return $"{Wording.Plural(due.Count, "statement")} asked.";
    }

    internal static LocalDate Next(StatementRhythm rhythm, LocalDate last) =>
        rhythm switch
        {
            StatementRhythm.Daily => last.PlusDays(1),
            StatementRhythm.Weekly => last.PlusWeeks(1),
            StatementRhythm.Monthly => last.PlusMonths(1),
            _ => throw new InvalidOperationException($"{rhythm} has no next day."),
        };

    private async Task RunAsync(JobRun run, SavedStatement statement, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var caller = new Caller();
        await caller.LoadAsync(statement.PersonId, db, calendar.Today);
        var answer = caller.SignedIn
            ? await StatementRun.AskAsync(statement, engine, new(caller, db, calendar, cancel))
            : new Refusal("person-off", null, "Its person cannot sign in any more.");
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                var there = await session.Db.Statements.SingleOrDefaultAsync(s => s.Id == statement.Id, cancel);
                if (there?.Rhythm is null || there.Sql != statement.Sql)
                {
                    return;
                }

                var failedBefore = there.LastFailed;
                there.LastRunOn = calendar.Today;
                there.LastFailed = answer.Refusal is not null;
                there.LastSaid = answer.Refusal is { } refusal
                    ? refusal.Sentence
                    : $"{Wording.Plural(answer.Value.NewRows, "new row")} of {Wording.Number(answer.Value.Rows)}.";
                if (answer.Refusal is null)
                {
                    there.SeenRows = answer.Value.Seen;
                }

                // One that goes on failing has said so once.
                if (answer.Refusal is not null ? !failedBefore : answer.Value.NewRows > 0)
                {
                    var person = await session.Db.Users.SingleAsync(p => p.Id == there.PersonId, cancel);
                    Outbox.Add(session, person, Message(there, answer), LinkOf(there));
                }
            },
            cancel
        );
    }

    private static string LinkOf(SavedStatement statement) =>
        $"/activity/sql?statement={Uri.EscapeDataString(statement.Name)}";

    private static MessageText Message(SavedStatement statement, Outcome<StatementAnswer> answer)
    {
        var because = $"you have “{statement.Name}” asked by itself";
        if (answer.Refusal is { } refusal)
        {
            return new(
                "statement-failed",
                $"No answer: {statement.Name}",
                $"The statement had no answer today. {refusal.Sentence}",
                because
            );
        }

        var (rows, more) = (answer.Value.New, answer.Value.NewRows - answer.Value.New.Count);
        return new(
            "statement",
            $"{Wording.Plural(answer.Value.NewRows, "new row")}: {statement.Name}",
            string.Join('\n', rows.Select(r => $"– {r}")) + (more == 0 ? "" : $"\n… and {Wording.Number(more)} more."),
            because
        );
    }
}

/// <summary>Asks, each morning, whether a statement's day has come.</summary>
internal sealed class DailyStatements : IDailyTask
{
    public async Task RunAsync(DailyQuestion asked)
    {
        if (await asked.Session.Db.Statements.AnyAsync(s => s.Rhythm != null, asked.Cancel))
        {
            await JobBoard.AddAsync(
                asked.Session,
                StatementJob.JobKind,
                0,
                "Asking the statements whose day it is",
                null,
                DailyRun.Asker
            );
        }
    }
}
