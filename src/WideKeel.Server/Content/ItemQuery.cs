using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Query;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

/// <summary>
/// Which items: the same parameters for list, count, facets, spreadsheet and mass filing. Several values of one kind
/// mean any of them.
/// </summary>
public sealed record ItemQuery
{
    /// <summary>A query in CQL 1.2; plain words without any operator mean that all of them occur.</summary>
    public string? Cql { get; init; }

    public StateWord[]? State { get; init; }

    public long[]? Series { get; init; }

    public bool? Unfiled { get; init; }

    public long[]? Source { get; init; }

    public long[]? Container { get; init; }

    public long[]? Unit { get; init; }

    public string[]? Type { get; init; }

    public string[]? Owner { get; init; }

    /// <summary>Names of sensitive kinds found in the item.</summary>
    public string[]? Kind { get; init; }

    public int[]? Year { get; init; }

    /// <summary>
    /// Bands of sizes: 0 below 10 kB, 1 from 10 kB, 2 from 100 kB, 3 from 1 MB, 4 from 10 MB, 5 from 100 MB, 6 from 1
    /// GB.
    /// </summary>
    public int[]? Size { get; init; }

    /// <summary>How much of their words can be found: whole, part, password, scan or none.</summary>
    public string[]? Searchable { get; init; }

    public bool? Missing { get; init; }

    /// <summary>Only copies of one content, by its SHA-256 in lower-case hex.</summary>
    public string? Hash { get; init; }

    /// <summary>What events refer to the item by.</summary>
    public string[]? Subject { get; init; }

    /// <summary>Messages of these conversations.</summary>
    public string[]? Thread { get; init; }

    /// <summary>Filed by one of these filing rules.</summary>
    public long[]? FilingRule { get; init; }

    /// <summary>Under no series, and suggested for one of these by what was learnt from filing by hand.</summary>
    public long[]? Suggested { get; init; }

    public long[]? Ids { get; init; }

    /// <summary>
    /// The filter, or the mistake in the query with its place. Nothing beyond the caller's remit is ever matched.
    /// </summary>
    /// <param name="right">What the caller is about to do with the items.</param>
    public async Task<Outcome<ItemFilter>> ToFilterAsync(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        Right right = Right.ReadContent
    )
    {
        if (Searchable?.Except(SearchableWords.All).FirstOrDefault() is not null)
        {
            return new Refusal(
                "value-unknown",
                "searchable",
                $"This is one of {string.Join(", ", SearchableWords.All)}."
            );
        }

        CompiledQuery? compiled = null;
        if (!string.IsNullOrWhiteSpace(Cql))
        {
            var outcome = QueryCompiler.Compile(PlainWords.ToQuery(Cql), calendar.Today);
            if (outcome.Refusal is { } mistake)
            {
                return mistake with { Field = "cql" };
            }

            compiled = outcome.Value;
        }

        // To find an item by what is sensitive in it is to be told that it is there.
        var bySensitive = Kind is { Length: > 0 } || compiled?.Condition.LooksAt(QueryIndex.Sensitive) == true;
        if (bySensitive && !caller.May(Right.ReadSensitive))
        {
            return new Refusal(
                "not-allowed",
                Kind is { Length: > 0 } ? "kind" : "cql",
                "Your role does not include knowing where sensitive data lies, so items cannot be found by it."
            );
        }

        var visible = caller.Items(right, bySensitive ? Right.ReadSensitive : null);
        if (compiled is null)
        {
            return ToFilter(visible, null);
        }

        await db.Database.OpenConnectionAsync();
        var query = QuerySql.Translate((SqliteConnection)db.Database.GetDbConnection(), compiled);
        return query.Refusal is { } tooWide ? tooWide with { Field = "cql" } : ToFilter(visible, query.Value);
    }

    /// <summary>The filter with a query that is understood already.</summary>
    /// <remarks>Long because each of its parts may be absent.</remarks>
    public ItemFilter ToFilter(ItemFilter visible, QuerySql? query) =>
        visible with
        {
            Query = query,
            States = [.. (State ?? []).Select(s => s.State)],
            Series = Series ?? [],
            Unfiled = Unfiled ?? false,
            Sources = Source ?? [],
            Containers = Container ?? [],
            InUnits = Unit ?? [],
            Types = Type ?? [],
            Owners = Owner ?? [],
            Kinds = Kind ?? [],
            Years = Year ?? [],
            SizeBands = Size ?? [],
            Searchables = Searchable ?? [],
            Missing = Missing ?? false,
            Hash = Hash,
            Subjects = Subject ?? [],
            Threads = Thread ?? [],
            FilingRules = FilingRule ?? [],
            Suggested = Suggested ?? [],
            Ids = Ids ?? [],
        };
}
