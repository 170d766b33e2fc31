using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Matters;
using WideKeel.Core.Query;
using WideKeel.Server.Jobs;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>
/// Runs a sweep: notes what it finds, then counts it by place, custodian and term. Cut off, it starts over from
/// nothing.
/// </summary>
public sealed class SweepJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    Safekeeping safekeeping,
    OrganisationCalendar calendar
) : IJob
{
    public static readonly JobKind JobKind = new("sweep", JobKind.Matters, Changes: "matters");
    private static readonly int Portion = Portions.Or(20_000);

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var sought = await db.SweepRuns.AsNoTracking().SingleAsync(r => r.Id == run.Job.SubjectId, cancel);
        if (sought.State == RunState.Done)
        {
            return Words(sought.Items);
        }

        var sweep = await db.Sweeps.AsNoTracking().SingleAsync(s => s.Id == sought.SweepId, cancel);
        var asked = await HoldQuery.OfAsync(sought.Definition, sweep.MatterId, db, calendar, cancel);
        if (asked.Refusal is { } mistake)
        {
            await BeginAsync(run, sought.Id, RunState.Failed, mistake.Sentence, cancel);
            return mistake.Sentence;
        }

        await BeginAsync(run, sought.Id, RunState.Running, null, cancel);
        var query = asked.Value;
        var terms = await TermsAsync(sought.Definition, sweep.MatterId, db, cancel);
        var fitting = query
            .Rows((SqliteConnection)db.Database.GetDbConnection(), "SELECT i.Id FROM item i WHERE {where}")
            .Select(r => r.GetInt64(0))
            .ToHashSet();
        var former = await FormerVersions
            .In(run, safekeeping, writer, cancel)
            .SearchAsync(db, query, [.. terms.Select(t => t.Asked.Condition!)], cancel);
        var hits = fitting.Union(former.Select(f => f.ItemId)).Order().ToList();
        await NoteAsync(run, sought.Id, hits, former, cancel);
        var only = former.Select(f => f.ItemId).Where(i => !fitting.Contains(i)).ToHashSet();
        var count = new SweepCount(db, calendar, sought, sweep.MatterId, query, new(hits.Count, former, only));
        var (figures, bytes) = await count.FiguresAsync(
            terms,
            (at, term) => run.ReportAsync(at, terms.Count, $"Counting by term: {term}", cancel),
            cancel
        );
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                var done = await session.Db.SweepRuns.SingleAsync(r => r.Id == sought.Id, cancel);
                (done.State, done.Items, done.Bytes, done.Figures) = (RunState.Done, hits.Count, bytes, figures);
                session.Record(
                    "sweep-run",
                    MatterDoor.Subject(sweep.MatterId),
                    after: new JsonObject
                    {
                        ["sweep"] = sweep.Name,
                        ["items"] = hits.Count,
                        ["bytes"] = bytes,
                    }
                );
            },
            cancel
        );
        return Words(hits.Count);
    }

    private static string Words(long items) => string.Create(CultureInfo.InvariantCulture, $"{items:N0} items found.");

    /// <summary>Forgets what an earlier, cut-off attempt noted, and says how the run stands.</summary>
    private Task BeginAsync(JobRun run, long id, RunState state, string? failure, CancellationToken cancel) =>
        writer.RunAsync(
            run.Actor,
            async session =>
            {
                var own = session.Db.SweepRuns.Where(r => r.Id == id);
                await SweepHits.RemoveAsync(session.Db, own, cancel);
                await own.ExecuteUpdateAsync(
                    set => set.SetProperty(r => r.State, state).SetProperty(r => r.Failure, failure),
                    cancel
                );
            },
            cancel
        );

    /// <summary>Each term of the query, asked by itself in the places and dates of the sweep.</summary>
    private async Task<IReadOnlyList<(string Text, HoldQuery Asked)>> TermsAsync(
        HoldDefinition definition,
        long matter,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        List<(string, HoldQuery)> terms = [];
        foreach (var text in QueryTerms.Of(definition.Query))
        {
            var term = await HoldQuery.OfAsync(definition with { Query = text }, matter, db, calendar, cancel);
            terms.Add((text, term.Value));
        }

        return terms;
    }

    private async Task NoteAsync(
        JobRun run,
        long sweepRun,
        List<long> hits,
        IReadOnlyList<FormerMatch> former,
        CancellationToken cancel
    )
    {
        foreach (var portion in former.Chunk(Portion))
        {
            await PutAsync(
                "INSERT INTO sweep_version_hit (RunId, ItemId, Hash, Term) "
                    + "SELECT $run, value ->> 0, value ->> 1, value ->> 2 FROM json_each($rows)",
                portion.Select(f => new object[] { f.ItemId, f.Hash, f.Term })
            );
        }

        var noted = 0;
        foreach (var portion in hits.Chunk(Portion))
        {
            await PutAsync("INSERT INTO sweep_hit (RunId, ItemId) SELECT $run, value FROM json_each($rows)", portion);
            noted += portion.Length;
            await run.ReportAsync(noted, hits.Count, "Noting what it finds", cancel);
        }

        Task PutAsync<T>(string statement, IEnumerable<T> rows) =>
            writer.RunAsync(
                run.Actor,
                session =>
                {
                    using var insert = session.Command(statement);
                    insert.Parameters.AddWithValue("$run", sweepRun);
                    insert.Parameters.AddWithValue("$rows", JsonSerializer.Serialize(rows));
                    insert.ExecuteNonQuery();
                    return Task.CompletedTask;
                },
                cancel
            );
    }
}
