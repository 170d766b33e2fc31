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

/// <summary>Which of a run's hits are meant.</summary>
internal sealed record HitChoice
{
    /// <summary>An id.</summary>
    public long? Container { get; init; }

    /// <summary>An id.</summary>
    public long? Custodian { get; init; }

    /// <summary>By its place among the figures, from 0.</summary>
    public int? Term { get; init; }

    /// <summary>Of the term: <c>found</c>, as the run found them; <c>only</c>, those what no other term fits;
    /// <c>alone</c>, in the same places and dates whatever the other terms say, as it is now.</summary>
    public string? Scope { get; init; }

    /// <summary><c>added</c> or <c>gone</c>, against the run before.</summary>
    public string? Change { get; init; }

    /// <summary><c>fits</c> for the items of which a former content fits, <c>only</c> for those of them whose
    /// present content does not.</summary>
    public string? Former { get; init; }

    /// <summary>The id of a tag that they bear.</summary>
    public long? Tag { get; init; }

    /// <summary><c>no</c> for those that bear no tag, <c>yes</c> for the others.</summary>
    public string? Coded { get; init; }

    /// <summary>CQL, or plain words, that fits them too as they are now; not together with a term.</summary>
    public string? Query { get; init; }

    /// <summary>What is wrong with it, among so many terms; null when nothing is.</summary>
    public Refusal? Check(int terms) =>
        CheckTerm(terms)
        ?? Known("change", Change, "Against the run before, “added” or “gone” can be asked.", "added", "gone")
        ?? Known("coded", Coded, "Coded is asked for with “yes” or “no”.", "yes", "no")
        ?? Known("former", Former, "Of former contents, “fits” or “only” can be asked.", "fits", "only");

    private Refusal? CheckTerm(int terms) =>
        Term is { } at && (at < 0 || at >= terms) ? Problems.NotFound("term")
        : Scope is not null && Term is null ? ScopeUnknown
        : Known("scope", Scope, ScopeUnknown.Sentence, "found", "only", "alone") is { } unknown ? unknown
        : Query is not null && Term is not null
            ? new("query-or-term", "query", "Ask for a term or by a query of your own, not both.")
        : Scope == "alone" && this with { Term = null, Scope = null } != new HitChoice()
            ? new(
                "scope-alone",
                "scope",
                "A term alone is asked for in all places of the sweep, whatever a run found; leave out everything else."
            )
        : null;

    private static Refusal ScopeUnknown { get; } =
        new("scope-unknown", "scope", "The scope is found, only or alone, of a term.");

    private static Refusal? Known(string field, string? said, string sentence, params string[] known) =>
        said is null || known.Contains(said) ? null : new($"{field}-unknown", field, sentence);

    /// <summary>The words to be marked: of the one term, or of the whole query.</summary>
    public string? Words(string? query, IReadOnlyList<string> terms)
    {
        var one = Term is { } at ? terms[at] : null;
        var others = terms.Where(t => t != one).ToList();
        return one is null ? query
            : Scope == "only" && others.Count > 0 ? $"({one}) not ({string.Join(" or ", others.Select(o => $"({o})"))})"
            : one;
    }
}

/// <summary>The hits of a run as a condition over its items.</summary>
internal static class RunHits
{
    public static async Task<SweepRun?> RunAsync(
        long id,
        long run,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        caller.Matters.ContainsKey(id)
            ? await db
                .SweepRuns.AsNoTracking()
                .SingleOrDefaultAsync(
                    r => r.Id == run && db.Sweeps.Any(s => s.Id == r.SweepId && s.MatterId == id),
                    cancel
                )
            : null;

    /// <summary>A custodian of another matter is as unknown here as one that does not exist.</summary>
    private static async Task<Refusal?> CheckCustodianAsync(long id, HitChoice choice, ApiContext context) =>
        choice.Custodian is { } custodian
        && !await context.Db.Custodians.AnyAsync(c => c.Id == custodian && c.MatterId == id, context.Cancel)
            ? Problems.NotFound("custodian")
            : null;

    public static async Task<
        Outcome<(string Where, Action<SqliteCommand> Bind, Store.Content.QuerySql? Query)>
    > ChoiceAsync(long id, long run, HitChoice choice, ApiContext context)
    {
        if (await RunAsync(id, run, context.Caller, context.Db, context.Cancel) is not { } known)
        {
            return Problems.NotFound("run");
        }

        var terms = QueryTerms.Of(known.Definition.Query);
        if ((choice.Check(terms.Count) ?? await CheckCustodianAsync(id, choice, context)) is { } wrong)
        {
            return wrong;
        }

        await context.Db.Database.OpenConnectionAsync(context.Cancel);
        var (where, bind) = await InRunAsync(id, run, known.SweepId, choice, context);
        var query = await HoldQuery.OfAsync(
            (choice.Scope == "alone" ? known.Definition : HoldDefinition.Everything) with
            {
                Query = choice.Query ?? choice.Words(known.Definition.Query, terms),
            },
            id,
            context.Db,
            context.Calendar,
            context.Cancel
        );
        if (query.Refusal is { } mistake)
        {
            // Where the words cannot be marked, the items that the run found are shown all the same.
            return choice.Query is null && choice.Term is null ? (where, bind, null) : mistake;
        }

        if (choice.Scope == "alone")
        {
            return (query.Value.Where, query.Value.Bind, query.Value.Query);
        }

        if (query.Value.Query is not { } asked || (choice.Query is null && choice.Term is null))
        {
            return (where, bind, query.Value.Query);
        }

        var condition = choice.Query is null ? SweepHits.OfTerm(asked.Where, choice.Scope == "only") : asked.Where;
        return (
            $"{where} AND {condition}",
            command =>
            {
                bind(command);
                asked.Bind(command);
                command.Parameters.AddWithValue("$term", choice.Term ?? (object)DBNull.Value);
            },
            asked
        );
    }

    /// <summary>The conditions of a choice but for that of a custodian.</summary>
    private static List<string> PartsOf(HitChoice choice)
    {
        const string hits = "SELECT ItemId FROM sweep_hit WHERE RunId = ";
        const string coded = "SELECT ItemId FROM matter_item_tag WHERE TagId IN " + CodingEndpoints.Own;
        List<string> parts =
        [
            choice.Change switch
            {
                "gone" => $"i.Id IN ({hits}$before EXCEPT {hits}$run)",
                "added" => $"i.Id IN ({hits}$run EXCEPT {hits}$before)",
                _ => $"i.Id IN ({hits}$run)",
            },
        ];
        if (choice.Container is not null)
        {
            parts.Add("i.ContainerId = $place");
        }

        if (choice.Tag is not null)
        {
            parts.Add($"i.Id IN ({coded} AND TagId = $tag)");
        }

        if (choice.Coded is { } said)
        {
            parts.Add($"i.Id {(said == "no" ? "NOT " : "")}IN ({coded})");
        }

        if (choice.Former is { } former)
        {
            parts.Add(SweepHits.OfFormer(former == "only"));
        }

        return parts;
    }

    /// <summary>
    /// The items of a run, in the places and of the custodian that are chosen, as a condition over <c>i</c>.
    /// </summary>
    private static async Task<(string Where, Action<SqliteCommand> Bind)> InRunAsync(
        long matter,
        long run,
        long sweep,
        HitChoice choice,
        ApiContext context
    )
    {
        var before = choice.Change is null
            ? 0
            : await context
                .Db.SweepRuns.Where(r => r.SweepId == sweep && r.Id < run && r.State == RunState.Done)
                .MaxAsync(r => (long?)r.Id, context.Cancel)
                ?? 0;
        var parts = PartsOf(choice);
        HoldQuery? theirs = null;
        var former = "[]";
        if (choice.Custodian is { } person)
        {
            theirs = await HoldQuery.OfCustodianAsync(person, matter, context.Db, context.Calendar, context.Cancel);
            former = await FormerVersions.OfRunAsync(context.Db, run, theirs, context.Cancel);
            parts.Add(FormerVersions.Fits.Replace("{where}", theirs.Where, StringComparison.Ordinal));
        }

        return (
            string.Join(" AND ", parts),
            command =>
            {
                command.Parameters.AddWithValue("$run", run);
                command.Parameters.AddWithValue("$before", before);
                command.Parameters.AddWithValue("$place", (object?)choice.Container ?? DBNull.Value);
                command.Parameters.AddWithValue("$tag", (object?)choice.Tag ?? DBNull.Value);
                command.Parameters.AddWithValue("$matter", matter);
                command.Parameters.AddWithValue("$former", former);
                if (theirs is null)
                {
                    command.Parameters.AddWithValue("$today", context.Calendar.Today.ToDayNumber());
                }

                theirs?.Bind(command);
            }
        );
    }
}
