using System.Globalization;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Matters;
using WideKeel.Core.Query;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <param name="Items">How many items a run found.</param>
/// <param name="Former">What fits by a former content.</param>
/// <param name="Only">The items that fit by that alone.</param>
internal sealed record SweepFound(long Items, IReadOnlyList<FormerMatch> Former, IReadOnlySet<long> Only);

/// <summary>Counts what a run noted: by place, by custodian, by term, and against the run before.</summary>
internal sealed class SweepCount(
    WideKeelDb db,
    OrganisationCalendar calendar,
    SweepRun run,
    long matter,
    HoldQuery query,
    SweepFound found
)
{
    private const string Hit = "i.Id IN (SELECT ItemId FROM sweep_hit WHERE RunId = $run)";

    /// <summary>A message among the items found, with its attachments.</summary>
    private sealed record Message(long Id, QueryItem Item, string[] Attachments);

    private SqliteConnection Connection => (SqliteConnection)db.Database.GetDbConnection();

    private void Bind(SqliteCommand command) => command.Parameters.AddWithValue("$run", run.Id);

    /// <param name="report">Is called for each term before it is counted.</param>
    public async Task<(SweepFigures Figures, long Bytes)> FiguresAsync(
        IReadOnlyList<(string Text, HoldQuery Asked)> terms,
        Func<int, string, Task> report,
        CancellationToken cancel
    )
    {
        var places = await PlacesAsync(cancel);
        var people = await PeopleAsync(cancel);
        var messages = Messages();
        var byTerm = await ByTermAsync(terms, messages, report, cancel);
        var (members, fitting) = query.Condition is { } condition
            ? FamiliesOf(messages, condition)
            : (messages.Sum(f => 1L + f.Attachments.Length), messages.Sum(f => 1L + f.Attachments.Length));
        var before = await db
            .SweepRuns.Where(r => r.SweepId == run.SweepId && r.Id < run.Id && r.State == RunState.Done)
            .MaxAsync(r => (long?)r.Id, cancel);
        return (
            new(
                places,
                people,
                byTerm,
                found.Items - messages.Count + fitting,
                found.Items - messages.Count + members,
                await UnsearchedFiles.UnreadableIn(db, query).LongCountAsync(cancel)
                    + query.Count(Connection, $"SELECT COUNT(*) {UnsearchedFiles.Unsearched}")
                    + (await FormerVersions.UnsearchedAsync(db, query, cancel)).Count,
                before is null ? null : Difference(run.Id, before.Value),
                before is null ? null : Difference(before.Value, run.Id),
                found.Former.LongCount(f => f.Term == SweepVersionHit.Whole && f.Hash.Length > 0),
                found.Only.Count
            ),
            places.Sum(p => p.Bytes)
        );
    }

    private async Task<List<PlaceFigures>> PlacesAsync(CancellationToken cancel)
    {
        var names = await CustodianEndpoints.ContainerNamesAsync(db, cancel);
        return
        [
            .. query
                .Rows(
                    Connection,
                    $"SELECT i.ContainerId, COUNT(*), SUM(i.Bytes) FROM item i WHERE {Hit} GROUP BY 1 ORDER BY 2 DESC",
                    Bind
                )
                .Select(r => new PlaceFigures(r.GetInt64(0), names[r.GetInt64(0)].Name, r.GetInt64(1), r.GetInt64(2))),
        ];
    }

    private async Task<List<PlaceFigures>> PeopleAsync(CancellationToken cancel)
    {
        List<PlaceFigures> people = [];
        var custodians = db.Custodians.AsNoTracking().Include(c => c.Person).Where(c => c.MatterId == matter);
        foreach (var custodian in await custodians.ToListAsync(cancel))
        {
            var theirs = await HoldQuery.OfCustodianAsync(custodian.Id, matter, db, calendar, cancel);
            var former = await FormerVersions.OfRunAsync(db, run.Id, theirs, cancel);
            people.Add(
                theirs
                    .Rows(
                        Connection,
                        "SELECT COUNT(*), COALESCE(SUM(i.Bytes), 0) FROM item i "
                            + $"WHERE {Hit} AND {FormerVersions.Fits}",
                        command =>
                        {
                            Bind(command);
                            command.Parameters.AddWithValue("$former", former);
                        }
                    )
                    .Select(r => new PlaceFigures(custodian.Id, custodian.Person!.Name, r.GetInt64(0), r.GetInt64(1)))
                    .Single()
            );
        }

        return people;
    }

    /// <summary>
    /// The messages that fit as they are. One of which a former content alone fits counts as a single document.
    /// </summary>
    private List<Message> Messages() =>
        [
            .. query
                .Rows(
                    Connection,
                    $"SELECT i.Id, i.Title, i.Author, i.Attachments, (SELECT t.Text FROM item_text t WHERE t.ItemId "
                        + $"= i.Id) FROM item i WHERE {Hit} AND i.Attachments IS NOT NULL",
                    Bind
                )
                .Select(r => new Message(
                    r.GetInt64(0),
                    new()
                    {
                        Title = r.GetString(1),
                        Author = r.IsDBNull(2) ? null : r.GetString(2),
                        Body = r.IsDBNull(4) ? "" : r.GetString(4),
                    },
                    r.GetString(3).Split('\n')
                ))
                .Where(m => !found.Only.Contains(m.Id)),
        ];

    private async Task<List<TermFigures>> ByTermAsync(
        IReadOnlyList<(string Text, HoldQuery Asked)> terms,
        List<Message> messages,
        Func<int, string, Task> report,
        CancellationToken cancel
    )
    {
        var former = found.Former.ToLookup(f => f.Term, f => f.ItemId);
        List<(string Term, HoldQuery Asked, HashSet<long> In, long Alone)> counted = [];
        foreach (var (text, asked) in terms)
        {
            cancel.ThrowIfCancellationRequested();
            await report(counted.Count, text);
            var within = asked
                .Rows(Connection, $"SELECT i.Id FROM item i WHERE {Hit} AND {{where}}", Bind)
                .Select(r => r.GetInt64(0))
                .ToHashSet();
            // Where a former content fits, the rows that were noted say which terms do.
            within.ExceptWith(former[SweepVersionHit.Whole]);
            within.UnionWith(former[counted.Count]);
            counted.Add((text, asked, within, asked.Count(Connection, "SELECT COUNT(*) FROM item i WHERE {where}")));
        }

        var shared = counted.SelectMany(t => t.In).CountBy(i => i).ToDictionary();
        return counted.ConvertAll(t =>
        {
            var own = messages.FindAll(m => t.In.Contains(m.Id));
            var (members, fitting) = FamiliesOf(own, t.Asked.Condition!);
            var single = t.In.Count - own.Count;
            return new TermFigures(
                t.Term,
                t.Alone,
                t.In.Count,
                t.In.LongCount(i => shared[i] == 1),
                single + fitting,
                single + members
            );
        });
    }

    private static (long Members, long Fitting) FamiliesOf(IEnumerable<Message> messages, Condition condition)
    {
        long members = 0,
            fitting = 0;
        foreach (var message in messages)
        {
            members += 1 + message.Attachments.Length;
            fitting += Family.Fitting(condition, message.Item, message.Attachments);
        }

        return (members, fitting);
    }

    /// <summary>How many items one run found and another did not.</summary>
    private long Difference(long of, long than)
    {
        using var command = Connection.CreateCommand();
        command.CommandText =
            "SELECT COUNT(*) FROM (SELECT ItemId FROM sweep_hit WHERE RunId = $of EXCEPT SELECT ItemId "
            + "FROM sweep_hit WHERE RunId = $than)";
        command.Parameters.AddWithValue("$of", of);
        command.Parameters.AddWithValue("$than", than);
        return Convert.ToInt64(command.ExecuteScalar(), CultureInfo.InvariantCulture);
    }
}
