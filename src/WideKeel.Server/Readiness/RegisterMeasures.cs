using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>Whether the registers are kept up.</summary>
internal sealed class RegisterMeasures : IMeasureSource
{
    public IReadOnlyList<Measure> Measures { get; } =
    [
        Kept("risks-reviewed", "risk", "Risks that are looked at", "risk", "Risks whose review is not overdue."),
        Kept(
            "suppliers-reviewed",
            "supplier",
            "Suppliers that are looked at",
            "suppliers",
            "Suppliers whose review is not overdue."
        ),
        new(
            "supplier-documents",
            "Documents of suppliers that still speak",
            "The newest document of each title of a supplier, where its last day is not past.",
            "suppliers",
            DocumentsAsync
        ),
    ];

    private static async Task<IReadOnlyList<MeasuredSubject>> DocumentsAsync(MeasureQuestion asked)
    {
        var today = asked.Calendar.Today;
        var documents = await (
            from document in asked.Db.RegisterDocuments
            join entry in asked.Db.RegisterEntries on document.EntryId equals entry.Id
            where entry.Kind == "supplier"
            orderby entry.Title, document.Id
            select new { entry.Title, Document = document }
        )
            .AsNoTracking()
            .ToListAsync(asked.Cancel);
        return
        [
            .. documents
                .GroupBy(d => (d.Document.EntryId, d.Document.Title))
                .Select(g => g.Last())
                .Select(d => new MeasuredSubject(
                    Wording.Id(d.Document.Id),
                    $"{d.Title}: {d.Document.Title}",
                    "",
                    d.Document.BrokenSince is null && !(d.Document.ValidThrough < today),
                    d.Document.BrokenSince is not null ? "Its file is missing or changed."
                        : d.Document.ValidThrough is { } day ? $"Speaks until {Wording.Day(day)}."
                        : "Has no last day.",
                    "/readiness/areas?kind=supplier"
                )),
        ];
    }

    private static Measure Kept(string name, string kind, string title, string area, string says) =>
        new(
            name,
            title,
            says,
            area,
            asked =>
                AskAsync(
                    asked,
                    kind,
                    e => !RegisterEndpoints.IsOverdue(e, asked.Calendar.Today),
                    e => e.Due is { } due ? $"Due {Wording.Day(due)}." : "Has no date."
                )
        );

    private static async Task<IReadOnlyList<MeasuredSubject>> AskAsync(
        MeasureQuestion asked,
        string kind,
        Func<RegisterEntry, bool> right,
        Func<RegisterEntry, string> why
    ) =>
        [
            .. (
                await asked
                    .Db.RegisterEntries.AsNoTracking()
                    .Where(e => e.Kind == kind)
                    .OrderBy(e => e.Title)
                    .ToListAsync(asked.Cancel)
            ).Select(e => new MeasuredSubject(
                Wording.Id(e.Id),
                e.Title,
                "",
                right(e),
                why(e),
                $"/readiness/areas?kind={kind}"
            )),
        ];
}
