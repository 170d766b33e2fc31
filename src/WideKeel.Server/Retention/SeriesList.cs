using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>What it takes to choose a series.</summary>
/// <param name="Guidance">For whoever files under it.</param>
public sealed record SeriesName(long Id, string Code, string Title, SeriesState State, Grade Grade, string Guidance);

/// <summary>A series in the list.</summary>
/// <param name="Earliest">Among its items: the earliest date on which a clock starts, for the tideline.</param>
/// <param name="Latest">Among its items: the latest keep-until date.</param>
public sealed record SeriesLine(
    long Id,
    string Code,
    string Title,
    string Description,
    string Unit,
    string Function,
    SeriesState State,
    bool HasDraft,
    bool Permanent,
    long Items,
    long Bytes,
    long Due,
    long Waiting,
    LocalDate? Earliest,
    LocalDate? Latest,
    string Rule
);

/// <summary>How many series each choice of the list would show.</summary>
/// <param name="All">But those retired.</param>
public sealed record SeriesFigures(long All, long Active, long Draft, long Due, long Waiting, long Retired);

/// <param name="Total">Of all pages.</param>
public sealed record SeriesPage(IReadOnlyList<SeriesLine> Series, string? Next, long Total, SeriesFigures Figures);

/// <summary>The series that a list shows.</summary>
public enum SeriesShown
{
    /// <summary>All but those retired.</summary>
    All,
    Active,

    /// <summary>Those whose draft waits.</summary>
    Draft,

    /// <summary>Those with items that are due.</summary>
    Due,

    /// <summary>Those with items that wait for an event.</summary>
    Waiting,
    Retired,
}

/// <summary>The list of the schedule, page by page.</summary>
internal static class SeriesList
{
    private static readonly Dictionary<string, Func<SeriesRow, object>> Sorts = new()
    {
        ["function"] = s => s.Function,
        ["code"] = s => s.Code,
        ["title"] = s => s.Title,
        ["unit"] = s => s.Unit,
        ["items"] = s => s.Items,
        ["bytes"] = s => s.Bytes,
        ["waiting"] = s => s.Waiting,
        ["due"] = s => s.Due,
    };

    public static void MapSeriesList(this IEndpointRouteBuilder api)
    {
        api.MapGet("/series", List).Requires(Right.ReadSchedule);
        api.MapGet("/series/names", Names).Requires(Right.ReadSchedule);
    }

    /// <param name="words">What code, title, function or unit contain.</param>
    /// <param name="show">Which of them, as <see cref="SeriesShown"/> names it; all but the retired where it is
    /// missing.</param>
    /// <param name="sort">A column, with - before it for the other way round; by function where it is missing. Equals
    /// stand by code.</param>
    private static async Task<Reply<SeriesPage>> List(
        string? words,
        string? show,
        string? sort,
        string? cursor,
        int? limit,
        [AsParameters] ApiContext context
    )
    {
        if (QueryWord.Read<SeriesShown>(show, "show", out var shown) is { } refusal)
        {
            return refusal;
        }

        sort ??= "function";
        if (!Sorts.TryGetValue(sort.TrimStart('-'), out var by))
        {
            return new Refusal(
                "sort-unknown",
                "sort",
                $"Sort by {string.Join(", ", Sorts.Keys)}, with - before it for the other way round."
            );
        }

        if (cursor is not null && Cursor.Read(cursor) is not { Value: long })
        {
            return new Refusal("cursor-malformed", "cursor", "This cursor is not one that the list gave out.");
        }

        var skipped = cursor is null ? 0 : (int)Math.Clamp((long)Cursor.Read(cursor)!.Value.Value, 0, int.MaxValue);
        var all = await SeriesEndpoints.RowsAsync(null, context.Caller, context.Db, context.Calendar);
        var found = all.Where(s => Contains(s, words) && Shows(s, shown ?? SeriesShown.All));
        var sorted = (sort[0] == '-' ? found.OrderByDescending(by, Order) : found.OrderBy(by, Order))
            .ThenBy(s => s.Code, StringComparer.Ordinal)
            .ToList();
        var most = Math.Clamp(limit ?? 200, 1, 500);
        var next = skipped + most;
        return new SeriesPage(
            [.. sorted.Skip(skipped).Take(most).Select(Line)],
            next < sorted.Count ? Cursor.Write((long)next, 0) : null,
            sorted.Count,
            new(
                Count(SeriesShown.All),
                Count(SeriesShown.Active),
                Count(SeriesShown.Draft),
                Count(SeriesShown.Due),
                Count(SeriesShown.Waiting),
                Count(SeriesShown.Retired)
            )
        );

        long Count(SeriesShown which) => all.LongCount(s => Contains(s, words) && Shows(s, which));
    }

    /// <summary>Texts as people order them, numbers by size.</summary>
    private static readonly Comparer<object> Order = Comparer<object>.Create(
        (a, b) =>
            (a, b) is (string x, string y)
                ? StringComparer.InvariantCultureIgnoreCase.Compare(x, y)
                : ((long)a).CompareTo((long)b)
    );

    private static bool Contains(SeriesRow series, string? words) =>
        string.IsNullOrWhiteSpace(words)
        || $"{series.Code} {series.Title} {series.Function} {series.Unit}".Contains(
            words.Trim(),
            StringComparison.OrdinalIgnoreCase
        );

    private static bool Shows(SeriesRow series, SeriesShown shown) =>
        shown switch
        {
            SeriesShown.Retired => series.State == SeriesState.Retired,
            SeriesShown.Active => series.State == SeriesState.Active,
            SeriesShown.Draft => series is { HasDraft: true, State: not SeriesState.Retired },
            SeriesShown.Due => series is { Due: > 0, State: not SeriesState.Retired },
            SeriesShown.Waiting => series is { Waiting: > 0, State: not SeriesState.Retired },
            _ => series.State != SeriesState.Retired,
        };

    private static SeriesLine Line(SeriesRow s) =>
        new(
            s.Id,
            s.Code,
            s.Title,
            s.Definition.Description,
            s.Unit,
            s.Function,
            s.State,
            s.HasDraft,
            s.Definition.Permanent,
            s.Items,
            s.Bytes,
            s.Due,
            s.Waiting,
            s.Earliest,
            s.Latest,
            s.Rule
        );

    /// <summary>All series by their codes, without figures.</summary>
    private static async Task<Reply<IReadOnlyList<SeriesName>>> Names([AsParameters] ApiContext context) =>
        (Outcome<IReadOnlyList<SeriesName>>)
            (await context.Db.Series.AsNoTracking().OrderBy(s => s.Code).ToListAsync(context.Cancel))
                .Where(s => context.Caller.MaySee(Right.ReadSchedule, s.UnitId))
                .Select(s =>
                {
                    var definition = s.InForce ?? s.Draft!;
                    return new SeriesName(
                        s.Id,
                        s.Code,
                        definition.Title,
                        s.State,
                        definition.Grade,
                        definition.Guidance
                    );
                })
                .ToList();
}
