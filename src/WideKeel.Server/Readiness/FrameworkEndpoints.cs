using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Moved">What moved it, one sentence each.</param>
public sealed record ReadinessPoint(LocalDate Day, decimal Readiness, IReadOnlyList<string> Moved);

/// <param name="Readiness">0 to 1; null where there is nothing to divide by.</param>
public sealed record UnitReadiness(string Unit, decimal People, decimal? Readiness);

/// <param name="Forecast">The same in five weeks, if nobody does anything.</param>
public sealed record FrameworkView(
    long Id,
    string Code,
    string Title,
    string Version,
    int Requirements,
    int Unanswered,
    decimal? Readiness,
    decimal? Forecast,
    IReadOnlyList<UnitReadiness> Units,
    IReadOnlyList<ReadinessPoint> History
);

/// <summary>A figure of a control, for lists.</summary>
public sealed record ControlFigureView(
    string Code,
    string Title,
    decimal? Readiness,
    ControlState State,
    decimal Weight
);

public sealed record RequirementView(
    string Code,
    string Group,
    string Title,
    decimal Weight,
    decimal? Readiness,
    RequirementState State,
    IReadOnlyList<ControlFigureView> Controls
);

/// <param name="Formula">How the framework's figure is made, with its numbers.</param>
public sealed record FrameworkDetail(
    FrameworkView Framework,
    IReadOnlyList<RequirementView> Requirements,
    IReadOnlyList<string> Formula
);

/// <param name="Gain">How far the mean of all frameworks rises.</param>
public sealed record FixView(string Control, string Title, decimal Hours, decimal Gain, decimal After);

/// <param name="Most">What no choice of controls within the hours gains more than.</param>
public sealed record FixesView(IReadOnlyList<FixView> Fixes, decimal Most);

public sealed record TestTally(string Area, int Passing, int Failing);

public sealed record ReadinessOverview(
    decimal? Mean,
    IReadOnlyList<FrameworkView> Frameworks,
    IReadOnlyList<TestTally> Areas
);

/// <summary>A framework that ships.</summary>
public sealed record CatalogView(
    string Code,
    string Title,
    string Version,
    string Source,
    int Requirements,
    bool Adopted
);

/// <summary>Frameworks: adopted, imported, exported, and how ready the organisation is for each.</summary>
public static class FrameworkEndpoints
{
    private const int HistoryDays = 366;
    private const int ForecastDays = 35;

    public static void MapFrameworks(this IEndpointRouteBuilder api)
    {
        api.MapGet("/readiness", Overview).Requires(Right.ReadReadiness);
        api.MapGet("/readiness/forecast", Forecast).Requires(Right.ReadReadiness);
        api.MapGet("/readiness/fixes", Fixes).Requires(Right.ReadReadiness);
        api.MapGet("/frameworks/library", Library).Requires(Right.ReadReadiness);
        api.MapGet("/frameworks/{code}", One).Requires(Right.ReadReadiness);
        api.MapDelete("/frameworks/{code}", Remove).Requires(Right.ManageReadiness);
    }

    private static async Task<Reply<ReadinessOverview>> Overview([AsParameters] ApiContext context)
    {
        var book = await ReadinessBook.LoadAsync(context.Db, context.Calendar, context.Cancel);
        var now = ReadinessComputation.On(book.Today, book.Model);
        var later = ReadinessComputation.On(book.Today.PlusDays(ForecastDays), book.Model);
        var history = await HistoryAsync(book, context);
        return new ReadinessOverview(
            now.Mean,
            [.. book.Frameworks.Select(f => View(f, book, now, later, history[f.Id]))],
            [
                .. book
                    .Controls.GroupBy(c => c.Area)
                    .OrderBy(g => g.Key, StringComparer.Ordinal)
                    .Select(g =>
                    {
                        var tests = g.SelectMany(c => c.Parts).Where(p => p.Kind == PartKind.Test).ToList();
                        var passing = tests.Count(p => ReadinessBook.PartOf(p, book.Today).CountsOn(book.Today));
                        return new TestTally(g.Key, passing, tests.Count - passing);
                    }),
            ]
        );
    }

    private static async Task<ILookup<long, ReadinessDay>> HistoryAsync(ReadinessBook book, ApiContext context)
    {
        var since = book.Today.PlusDays(-HistoryDays);
        return (
            await context
                .Db.ReadinessDays.AsNoTracking()
                .Where(d => d.Day > since)
                .OrderBy(d => d.Day)
                .ToListAsync(context.Cancel)
        ).ToLookup(d => d.FrameworkId);
    }

    private static FrameworkView View(
        FrameworkRow row,
        ReadinessBook book,
        ReadinessFigures now,
        ReadinessFigures later,
        IEnumerable<ReadinessDay> history
    )
    {
        var figure = now.Frameworks.First(f => f.Id == row.Code);
        return new(
            row.Id,
            row.Code,
            row.Title,
            row.Version,
            row.Requirements.Count,
            figure.Requirements.Count(r => r.State == RequirementState.Unanswered),
            figure.Readiness,
            later.Frameworks.First(f => f.Id == row.Code).Readiness,
            [
                .. figure.Units.Select(u => new UnitReadiness(
                    book.UnitNames.GetValueOrDefault(u.Id, u.Id),
                    book.Model.Units.First(x => x.Id == u.Id).People,
                    u.Readiness
                )),
            ],
            [
                .. history.Select(d => new ReadinessPoint(
                    d.Day,
                    d.Readiness,
                    d.Moved.Split('\n', StringSplitOptions.RemoveEmptyEntries)
                )),
            ]
        );
    }

    /// <summary>The readiness of all frameworks on a day, if nobody does anything until then.</summary>
    private static async Task<Reply<IReadOnlyList<ReadinessPoint>>> Forecast(
        string? framework,
        int days,
        [AsParameters] ApiContext context
    )
    {
        if (days is < 1 or > 730)
        {
            return new Refusal("days-malformed", "days", "Days are 1 to 730.");
        }

        var book = await ReadinessBook.LoadAsync(context.Db, context.Calendar, context.Cancel);
        List<ReadinessPoint> points = [];
        decimal? before = null;
        for (var day = book.Today; day <= book.Today.PlusDays(days); day = day.PlusDays(1))
        {
            var figures = ReadinessComputation.On(day, book.Model);
            var figure = framework is null
                ? figures.Mean
                : figures.Frameworks.FirstOrDefault(f => f.Id == framework)?.Readiness;
            if (figure is { } known && (known != before || day == book.Today.PlusDays(days)))
            {
                points.Add(new(day, Math.Round(known, 6), Ending(book, day)));
                before = known;
            }
        }

        return (Outcome<IReadOnlyList<ReadinessPoint>>)points;
    }

    /// <summary>The parts whose last day was the day before.</summary>
    private static List<string> Ending(ReadinessBook book, LocalDate day) =>
        [
            .. book.Controls.SelectMany(c =>
                c.Parts.Where(p => ReadinessBook.EndsOn(p, book.Today) == day.PlusDays(-1))
                    .Select(p => $"{c.Code} {p.Title} no longer counts.")
            ),
        ];

    private static async Task<Reply<FixesView>> Fixes(decimal hours, [AsParameters] ApiContext context)
    {
        if (hours is < 0 or > 10_000)
        {
            return new Refusal("hours-malformed", "hours", "Hours are 0 to 10,000.");
        }

        var book = await ReadinessBook.LoadAsync(context.Db, context.Calendar, context.Cancel);
        var titles = book.Controls.ToDictionary(c => c.Code, c => c.Title);
        return new FixesView(
            [
                .. ReadinessComputation
                    .Fixes(book.Today, book.Model, hours)
                    .Select(f => new FixView(
                        f.Control,
                        titles[f.Control],
                        f.Hours,
                        Math.Round(f.Gain, 6),
                        Math.Round(f.ReadinessAfter, 6)
                    )),
            ],
            Math.Round(ReadinessComputation.MostGain(book.Today, book.Model, hours), 6)
        );
    }

    private static async Task<Reply<IReadOnlyList<CatalogView>>> Library(WideKeelDb db, CancellationToken cancel)
    {
        var adopted = await db.Frameworks.Select(f => f.Code).ToListAsync(cancel);
        return (Outcome<IReadOnlyList<CatalogView>>)
            FrameworkCatalog
                .Shipped.Select(c => new CatalogView(
                    c.Code,
                    c.Title,
                    c.Version,
                    c.Source,
                    c.Requirements.Count,
                    adopted.Contains(c.Code)
                ))
                .ToList();
    }

    private static async Task<Reply<FrameworkDetail>> One(string code, [AsParameters] ApiContext context)
    {
        var book = await ReadinessBook.LoadAsync(context.Db, context.Calendar, context.Cancel);
        if (book.Frameworks.FirstOrDefault(f => f.Code == code) is not { } row)
        {
            return Problems.NotFound("framework");
        }

        var now = ReadinessComputation.On(book.Today, book.Model);
        var later = ReadinessComputation.On(book.Today.PlusDays(ForecastDays), book.Model);
        var history = await HistoryAsync(book, context);
        var figures = now.Controls.ToDictionary(c => c.Id);
        var ofRequirements = now.Frameworks.First(f => f.Id == code).Requirements.ToDictionary(r => r.Id);
        var view = View(row, book, now, later, history[row.Id]);
        return new FrameworkDetail(
            view,
            [
                .. row
                    .Requirements.OrderBy(r => r.Id)
                    .Select(r => new RequirementView(
                        r.Code,
                        r.Group,
                        r.Title,
                        r.Weight,
                        ofRequirements[Wording.Id(r.Id)].Readiness,
                        ofRequirements[Wording.Id(r.Id)].State,
                        [
                            .. book
                                .Controls.Where(c => c.Maps.Any(m => m.RequirementId == r.Id))
                                .Select(c => new ControlFigureView(
                                    c.Code,
                                    c.Title,
                                    figures[c.Code].Readiness,
                                    figures[c.Code].State,
                                    c.Weight
                                )),
                        ]
                    )),
            ],
            FormulaOf(view)
        );
    }

    /// <summary>The last step in words: units weighted by their people.</summary>
    private static List<string> FormulaOf(FrameworkView view)
    {
        var there = view.Units.Where(u => u.Readiness is not null).ToList();
        var people = there.Sum(u => u.People);
        return there.Count == 0
            ? ["No unit has a figure."]
            :
            [
                .. there.Select(u => $"{u.Unit}: {u.Readiness:P1} × {u.People:N0} people"),
                $"({string.Join(" + ", there.Select(u => $"{u.Readiness:F4} × {u.People:N0}"))}) ÷ {people:N0} = {view.Readiness:P1}",
            ];
    }

    private static async Task<Reply<Done>> Remove(string code, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (
                    await session
                        .Db.Frameworks.Include(f => f.Requirements)
                        .SingleOrDefaultAsync(f => f.Code == code, context.Cancel)
                    is not { } row
                )
                {
                    return Problems.NotFound("framework");
                }

                if (await session.Db.Audits.AnyAsync(a => a.FrameworkId == row.Id, context.Cancel))
                {
                    return Refusal.Conflict(
                        "framework-in-use",
                        null,
                        "An audit uses this framework. Its requests and evidence would lose what they refer to."
                    );
                }

                var ids = row.Requirements.Select(r => r.Id).ToList();
                await session
                    .Db.ControlMappings.Where(m => ids.Contains(m.RequirementId))
                    .ExecuteDeleteAsync(context.Cancel);
                session.Db.Frameworks.Remove(row);
                session.Record(
                    "removed",
                    new LedgerSubject("framework", code),
                    new JsonObject { ["title"] = row.Title }
                );
                return new Done();
            },
            context.Cancel
        );
}
