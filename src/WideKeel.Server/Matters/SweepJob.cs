using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Matters;
using WideKeel.Core.Query;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>
/// Runs a sweep: notes what it finds, then counts it by place, custodian and term. Cut off, it starts over from
/// nothing.
/// </summary>
public sealed class SweepJob(IDbContextFactory<WideKeelDb> databases, Writer writer, OrganisationCalendar calendar)
    : IJob
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
            await writer.RunAsync(
                run.Actor,
                async session =>
                    await session
                        .Db.SweepRuns.Where(r => r.Id == sought.Id)
                        .ExecuteUpdateAsync(
                            set =>
                                set.SetProperty(r => r.State, RunState.Failed)
                                    .SetProperty(r => r.Failure, mistake.Sentence),
                            cancel
                        ),
                cancel
            );
            return mistake.Sentence;
        }

        var query = asked.Value;
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                await session.Db.SweepHits.Where(h => h.RunId == sought.Id).ExecuteDeleteAsync(cancel);
                await session
                    .Db.SweepRuns.Where(r => r.Id == sought.Id)
                    .ExecuteUpdateAsync(set => set.SetProperty(r => r.State, RunState.Running), cancel);
            },
            cancel
        );
        var hits = query.Rows(connection, "SELECT i.Id FROM item i WHERE {where}").Select(r => r.GetInt64(0)).ToList();
        for (var at = 0; at < hits.Count; at += Portion)
        {
            var portion = hits.GetRange(at, Math.Min(Portion, hits.Count - at));
            await writer.RunAsync(
                run.Actor,
                session =>
                {
                    using var insert = session.Command(
                        "INSERT INTO sweep_hit (RunId, ItemId) SELECT $run, value FROM json_each($ids)"
                    );
                    insert.Parameters.AddWithValue("$run", sought.Id);
                    insert.Parameters.AddWithValue("$ids", JsonSerializer.Serialize(portion));
                    insert.ExecuteNonQuery();
                    return Task.CompletedTask;
                },
                cancel
            );
            await run.ReportAsync(at + portion.Count, hits.Count, "Noting what it finds", cancel);
        }

        var (figures, bytes) = await FiguresAsync(
            db,
            connection,
            sought,
            sweep.MatterId,
            query,
            run,
            hits.Count,
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

    private async Task<(SweepFigures Figures, long Bytes)> FiguresAsync(
        WideKeelDb db,
        SqliteConnection connection,
        SweepRun run,
        long matter,
        HoldQuery query,
        JobRun job,
        long found,
        CancellationToken cancel
    )
    {
        const string hit = "i.Id IN (SELECT ItemId FROM sweep_hit WHERE RunId = $run)";
        void Bind(SqliteCommand command) => command.Parameters.AddWithValue("$run", run.Id);
        var names = await CustodianEndpoints.ContainerNamesAsync(db, cancel);
        var places = query
            .Rows(
                connection,
                $"SELECT i.ContainerId, COUNT(*), SUM(i.Bytes) FROM item i WHERE {hit} GROUP BY 1 ORDER BY 2 DESC",
                Bind
            )
            .Select(r => new PlaceFigures(r.GetInt64(0), names[r.GetInt64(0)].Name, r.GetInt64(1), r.GetInt64(2)))
            .ToList();

        List<PlaceFigures> people = [];
        foreach (
            var custodian in await db
                .Custodians.AsNoTracking()
                .Include(c => c.Person)
                .Where(c => c.MatterId == matter)
                .ToListAsync(cancel)
        )
        {
            var theirs = (
                await HoldQuery.OfAsync(
                    HoldDefinition.Everything with
                    {
                        Custodians = [custodian.Id],
                    },
                    matter,
                    db,
                    calendar,
                    cancel
                )
            ).Value;
            people.Add(
                theirs
                    .Rows(
                        connection,
                        $"SELECT COUNT(*), COALESCE(SUM(i.Bytes), 0) FROM item i WHERE {hit} AND {{where}}",
                        Bind
                    )
                    .Select(r => new PlaceFigures(custodian.Id, custodian.Person!.Name, r.GetInt64(0), r.GetInt64(1)))
                    .Single()
            );
        }

        var families = query
            .Rows(
                connection,
                $"SELECT i.Id, i.Title, i.Author, i.Attachments, (SELECT t.Text FROM item_text t WHERE t.ItemId "
                    + $"= i.Id) FROM item i WHERE {hit} AND i.Attachments IS NOT NULL",
                Bind
            )
            .Select(r =>
                (
                    Id: r.GetInt64(0),
                    Item: new QueryItem
                    {
                        Title = r.GetString(1),
                        Author = r.IsDBNull(2) ? null : r.GetString(2),
                        Body = r.IsDBNull(4) ? "" : r.GetString(4),
                    },
                    Attachments: r.GetString(3).Split('\n')
                )
            )
            .ToList();
        var terms = new List<(string Term, HashSet<long> In, long Alone, Condition Condition)>();
        var shared = new Dictionary<long, int>();
        var texts = QueryTerms.Of(run.Definition.Query);
        foreach (var text in texts)
        {
            await job.ReportAsync(terms.Count, texts.Count, $"Counting by term: {text}", cancel);
            var one = (
                await HoldQuery.OfAsync(run.Definition with { Query = text }, matter, db, calendar, cancel)
            ).Value;
            var within = one.Rows(connection, $"SELECT i.Id FROM item i WHERE {hit} AND {{where}}", Bind)
                .Select(r => r.GetInt64(0))
                .ToHashSet();
            foreach (var id in within)
            {
                shared[id] = shared.GetValueOrDefault(id) + 1;
            }

            terms.Add(
                (text, within, one.Count(connection, "SELECT COUNT(*) FROM item i WHERE {where}"), one.Condition!)
            );
        }

        var byTerm = terms
            .Select(t =>
            {
                var (inFamilies, documents) = FamiliesOf(families.Where(f => t.In.Contains(f.Id)), t.Condition);
                var single = t.In.Count - families.Count(f => t.In.Contains(f.Id));
                return new TermFigures(
                    t.Term,
                    t.Alone,
                    t.In.Count,
                    t.In.LongCount(i => shared[i] == 1),
                    single + documents,
                    single + inFamilies
                );
            })
            .ToList();
        var (members, fitting) = query.Condition is { } condition
            ? FamiliesOf(families, condition)
            : (families.Sum(f => 1L + f.Attachments.Length), families.Sum(f => 1L + f.Attachments.Length));
        var unreadable = await SweepEndpoints.UnreadableIn(db, query).LongCountAsync(cancel);
        var before = await db
            .SweepRuns.Where(r => r.SweepId == run.SweepId && r.Id < run.Id && r.State == RunState.Done)
            .MaxAsync(r => (long?)r.Id, cancel);
        long? added = before is null ? null : Difference(run.Id, before.Value),
            gone = before is null ? null : Difference(before.Value, run.Id);
        return (
            new(
                places,
                people,
                byTerm,
                found - families.Count + fitting,
                found - families.Count + members,
                unreadable,
                added,
                gone
            ),
            places.Sum(p => p.Bytes)
        );

        static (long Members, long Fitting) FamiliesOf(
            IEnumerable<(long Id, QueryItem Item, string[] Attachments)> families,
            Condition condition
        )
        {
            long members = 0,
                fitting = 0;
            foreach (var (_, item, attachments) in families)
            {
                members += 1 + attachments.Length;
                fitting += Family.Fitting(condition, item, attachments);
            }

            return (members, fitting);
        }

        long Difference(long of, long than)
        {
            using var command = connection.CreateCommand();
            command.CommandText =
                "SELECT COUNT(*) FROM (SELECT ItemId FROM sweep_hit WHERE RunId = $of EXCEPT SELECT ItemId "
                + "FROM sweep_hit WHERE RunId = $than)";
            command.Parameters.AddWithValue("$of", of);
            command.Parameters.AddWithValue("$than", than);
            return Convert.ToInt64(command.ExecuteScalar(), CultureInfo.InvariantCulture);
        }
    }
}
