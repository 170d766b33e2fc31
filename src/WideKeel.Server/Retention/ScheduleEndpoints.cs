using System.Globalization;
using CsvHelper;
using CsvHelper.Configuration;
using Microsoft.EntityFrameworkCore;
using MiniExcelLibs;
using WideKeel.Core;
using WideKeel.Core.CommandLine;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>A schedule that comes back from a spreadsheet.</summary>
/// <param name="Csv">Its text; null where <paramref name="Xlsx"/> is sent.</param>
/// <param name="Xlsx">A workbook in base64.</param>
/// <param name="Fingerprint">Of the consequences that were on screen; null only asks for them.</param>
public sealed record ReturnedSchedule(string? Csv = null, string? Xlsx = null, string? Fingerprint = null);

/// <param name="Line">In the sheet, from 1; the first names the columns.</param>
public sealed record ReturnedRow(int Line, string Code, IReadOnlyList<CellChange> Changes);

/// <summary>A row that was changed on both sides since the export.</summary>
/// <param name="Theirs">What differs between the sheet and what is there now: before is what stands, after is what the
/// sheet says.</param>
public sealed record ConflictingRow(int Line, string Code, IReadOnlyList<CellChange> Theirs);

/// <param name="Applied">The drafts were written; nothing rules by them before they are put into effect.</param>
public sealed record ScheduleReturn(
    IReadOnlyList<ReturnedRow> Added,
    IReadOnlyList<ReturnedRow> Changed,
    int Unchanged,
    IReadOnlyList<RefusedLine> Refused,
    IReadOnlyList<ConflictingRow> Conflicts,
    ConsequencesView? Consequences,
    bool Applied
);

/// <summary>A draft that waits.</summary>
/// <param name="Kind"><c>series</c> or <c>blanket</c>.</param>
public sealed record WaitingDraft(
    string Kind,
    long Id,
    string Code,
    string Title,
    string Rule,
    string? RuleNow,
    string? By
);

/// <param name="Drafts">Which drafts take effect, as <c>series-3</c> or <c>blanket-2</c>; null for all.</param>
public sealed record DraftAdoption(string Fingerprint, string Why, IReadOnlyList<string>? Drafts = null);

/// <param name="Drafts">All that wait.</param>
/// <param name="Consequences">Of those that were selected.</param>
public sealed record DraftSchedule(IReadOnlyList<WaitingDraft> Drafts, ConsequencesView Consequences);

/// <summary>
/// The schedule as a whole: out to a spreadsheet and back, and all its drafts against what is in force.
/// </summary>
public static class ScheduleEndpoints
{
    private const int MostRows = 20_000;
    private const long MostBytes = 30_000_000;

    public static void MapSchedule(this IEndpointRouteBuilder api)
    {
        api.MapGet("/schedule.csv", Csv).Requires(Right.ReadSchedule);
        api.MapGet("/schedule.xlsx", Xlsx).Requires(Right.ReadSchedule);
        // A schedule of some thousand series is larger than other requests.
        api.MapPost("/schedule/return", Return).Requires(Right.WriteSchedule).TakesUpTo(MostBytes);
        api.MapPost("/schedule/return/{group}", ReturnGroup).Requires(Right.WriteSchedule).TakesUpTo(MostBytes);
        api.MapGet("/schedule/drafts", Drafts).Requires(Right.WriteSchedule);
        api.MapGet("/schedule/drafts/{group}", DraftsGroup).Requires(Right.WriteSchedule);
        api.MapPost("/schedule/adoption", Adopt).Requires(Right.WriteSchedule);
    }

    private static async Task<IResult> Csv(
        string? words,
        Caller caller,
        WideKeelDb db,
        HttpContext http,
        CancellationToken cancel
    ) =>
        await CsvAnswer.WriteAsync(
            http,
            "schedule.csv",
            [.. ScheduleSheet.Columns],
            SheetAsync(words, caller, db),
            cancel
        );

    private static async Task<IResult> Xlsx(
        string? words,
        Caller caller,
        WideKeelDb db,
        HttpContext http,
        CancellationToken cancel
    ) =>
        await XlsxAnswer.WriteAsync(
            http,
            "schedule.xlsx",
            [.. ScheduleSheet.Columns],
            SheetAsync(words, caller, db),
            cancel
        );

    private static async IAsyncEnumerable<object?[]> SheetAsync(string? words, Caller caller, WideKeelDb db)
    {
        var units = await UnitNamesAsync(db);
        foreach (
            var series in await db
                .Series.AsNoTracking()
                .Where(s => s.State != SeriesState.Retired)
                .OrderBy(s => s.Code)
                .ToListAsync()
        )
        {
            var row = RowOf(series, units);
            if (
                caller.MaySee(Right.ReadSchedule, series.UnitId)
                && (
                    string.IsNullOrWhiteSpace(words)
                    || $"{row.Code} {row.Definition.Title} {row.Definition.Descriptors.Function} {row.Unit}".Contains(
                        words.Trim(),
                        StringComparison.OrdinalIgnoreCase
                    )
                )
            )
            {
                yield return ScheduleSheet.Write(row);
            }
        }
    }

    private static async Task<Reply<ScheduleReturn>> Return(
        ReturnedSchedule request,
        Caller caller,
        Writer writer,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<ScheduleReturn>(
            caller.Actor,
            async session =>
            {
                var compared = await CompareAsync(request, session, caller, cancel);
                if (compared.Refusal is { } unreadable)
                {
                    return unreadable;
                }

                var (differences, writes) = compared.Value;
                if (differences.Refused.Count > 0 || differences.Conflicts.Count > 0)
                {
                    return differences;
                }

                var figures = await (await OfWritesAsync(writes, session.Db, calendar)).FiguresAsync(session.Db);
                if (request.Fingerprint is not null)
                {
                    if (RuleChange.CheckSeen(figures, request.Fingerprint) is { } moved)
                    {
                        return moved;
                    }

                    await SeriesEndpoints.WriteDraftsAsync(
                        session,
                        writes.Select(w => (w.Series, w.Row.Code, w.UnitId, w.Row.Definition)),
                        caller,
                        cancel
                    );
                }

                return differences with
                {
                    Consequences = figures,
                    Applied = request.Fingerprint is not null,
                };
            },
            cancel
        );

    private static async Task<Reply<ItemPage>> ReturnGroup(
        string group,
        ReturnedSchedule request,
        string? cursor,
        [AsParameters] ApiContext context
    ) =>
        await context.Writer.RunAsync<ItemPage>(
            context.Caller.Actor,
            async session =>
                await CompareAsync(request, session, context.Caller, context.Cancel) is var compared
                && compared.Refusal is { } unreadable
                    ? unreadable
                    : await (await OfWritesAsync(compared.Value.Writes, session.Db, context.Calendar)).GroupAsync(
                        group,
                        cursor,
                        context.Caller,
                        session.Db,
                        context.Calendar
                    ),
            context.Cancel
        );

    private static Task<RuleChange> OfWritesAsync(
        IReadOnlyList<DraftWrite> writes,
        WideKeelDb db,
        OrganisationCalendar calendar
    ) =>
        OfSeriesAsync(
            db,
            calendar,
            writes
                .Where(w => w.Series is not null)
                .ToDictionary(w => w.Series!.Id, w => (SeriesRule?)w.Row.Definition.Check(w.Row.Code).Value)
        );

    private static RefusedLine Refused(int line, Refusal why) => new(line, why.Field ?? "", why.Sentence);

    /// <summary>The cells of a new series that are not empty.</summary>
    private static List<CellChange> Written(SheetRow row) =>
        [
            .. ScheduleSheet
                .Columns.Zip(ScheduleSheet.Write(row))
                .Where(c => c.Second.Length > 0 && c.First != "revision")
                .Select(c => new CellChange(c.First, "", c.Second)),
        ];

    /// <summary>Holds a sheet against the schedule, row by row, and tells which drafts it would write.</summary>
    private static async Task<Outcome<(ScheduleReturn Differences, List<DraftWrite> Writes)>> CompareAsync(
        ReturnedSchedule request,
        WriteSession session,
        Caller caller,
        CancellationToken cancel
    )
    {
        var lines = ReadSheet(request);
        if (lines.Refusal is { } unreadable)
        {
            return unreadable;
        }

        var units = await UnitNamesAsync(session.Db);
        var known = await session.Db.Series.Include(s => s.Unit).ToDictionaryAsync(s => s.Code, cancel);
        List<ReturnedRow> added = [],
            changed = [];
        List<RefusedLine> refused = [];
        List<ConflictingRow> conflicts = [];
        List<DraftWrite> writes = [];
        HashSet<string> seen = [];
        var unchanged = 0;
        foreach (var (line, cells) in lines.Value)
        {
            var series = known.GetValueOrDefault(cells.GetValueOrDefault("code", "").Trim());
            var now = series is null ? null : RowOf(series, units);
            var read = ScheduleSheet.Read(cells, now);
            if ((read.Refusal ?? CheckPlace(read.Value, series, seen, units, caller)) is { } wrong)
            {
                refused.Add(Refused(line, wrong));
                continue;
            }

            var row = read.Value;
            var changes = now is null ? Written(row) : [.. ScheduleSheet.Differences(now, row)];
            var after = series ?? new Series { Code = row.Code, Title = row.Definition.Title };
            if (now is not null && changes.Count == 0)
            {
                unchanged++;
            }
            else if (await SeriesGuard.CheckAsync(session, after, row.Definition, caller) is { } guarded)
            {
                refused.Add(Refused(line, guarded));
            }
            else if (series is not null && row.Revision is { } revision && revision != series.Revision)
            {
                conflicts.Add(new(line, row.Code, changes));
            }
            else
            {
                (now is null ? added : changed).Add(new(line, row.Code, changes));
                writes.Add(new(series, row, units.First(u => u.Value == row.Unit).Key));
            }
        }

        return (new ScheduleReturn(added, changed, unchanged, refused, conflicts, null, false), writes);
    }

    /// <param name="Series">Null for a new one.</param>
    private sealed record DraftWrite(Series? Series, SheetRow Row, long UnitId);

    /// <summary>Whether the row stands once, and for a series or a unit that the caller writes.</summary>
    private static Refusal? CheckPlace(
        SheetRow row,
        Series? series,
        HashSet<string> seen,
        Dictionary<long, string> units,
        Caller caller
    )
    {
        if (!seen.Add(row.Code))
        {
            return new("code-twice", "code", $"{row.Code} stands in this sheet twice.");
        }

        var unit = units.Where(u => u.Value == row.Unit).Select(u => (long?)u.Key).FirstOrDefault();
        if (
            unit is null
            || !caller.May(Right.WriteSchedule, series?.UnitId ?? unit.Value)
            || (series is not null && !caller.MaySee(Right.ReadSchedule, series.UnitId))
        )
        {
            return Refusal.NotFound(
                "not-found",
                unit is null ? "unit" : "code",
                unit is null ? $"There is no unit “{row.Unit}”." : $"{row.Code} lies outside what you write."
            );
        }

        return series is not null && unit != series.UnitId
            ? new("unit-fixed", "unit", "A series stays with its unit; file its items under another series instead.")
            : null;
    }

    private static Outcome<List<(int Line, IReadOnlyDictionary<string, string> Cells)>> ReadSheet(
        ReturnedSchedule request
    )
    {
        var table = RowsOf(request);
        if (table.Refusal is { } unreadable)
        {
            return unreadable;
        }

        var rows = table.Value;
        if (rows.Count == 0)
        {
            return new Refusal("sheet-empty", "csv", "The sheet is empty. Its first line names the columns.");
        }

        var columns = rows[0].Select(c => c.Trim().ToLowerInvariant()).ToList();
        if (!columns.Contains("code"))
        {
            return new Refusal("sheet-column", "code", "Line 1: the column code is missing.");
        }

        if (columns.Where(c => c.Length > 0).Except(ScheduleSheet.Columns).FirstOrDefault() is { } unknown)
        {
            return new Refusal(
                "sheet-column",
                unknown,
                $"Line 1: there is no column “{unknown}”. Known are {string.Join(", ", ScheduleSheet.Columns)}."
            );
        }

        if (rows.Count > MostRows)
        {
            return new Refusal(
                "sheet-long",
                "csv",
                string.Create(CultureInfo.InvariantCulture, $"At most {MostRows:N0} series at once.")
            );
        }

        return rows.Select((cells, i) => (Line: i + 1, Cells: cells))
            .Skip(1)
            .Where(r => r.Cells.Any(c => c.Length > 0))
            .Select(r =>
                (
                    r.Line,
                    (IReadOnlyDictionary<string, string>)
                        columns
                            .Select((name, i) => (name, Value: i < r.Cells.Length ? Plain(r.Cells[i]) : ""))
                            .Where(c => c.name.Length > 0)
                            .ToDictionary(c => c.name, c => c.Value)
                )
            )
            .ToList();
    }

    private static Outcome<List<string[]>> RowsOf(ReturnedSchedule request)
    {
        if (request.Csv is { } table && CsvQuoting.Check(table, "csv", DelimiterOf(table)) is { } astray)
        {
            return astray;
        }

        try
        {
            return request.Csv is { } csv ? ReadCsv(csv)
                : request.Xlsx is { } xlsx ? ReadXlsx(Convert.FromBase64String(xlsx))
                : [];
        }
        catch (Exception e)
            when (e
                    is FormatException
                        or InvalidDataException
                        or CsvHelperException
                        or System.Xml.XmlException
                        or InvalidOperationException
                        or NullReferenceException
            )
        {
            return new Refusal(
                "sheet-unreadable",
                request.Csv is null ? "xlsx" : "csv",
                "This is no spreadsheet that can be read. Send the CSV or XLSX that the schedule was exported to."
            );
        }
    }

    /// <summary>Takes off the mark with which what a spreadsheet would read as a formula went out.</summary>
    private static string Plain(string cell) =>
        cell is ['\'', '=' or '+' or '-' or '@' or '\t' or '\r', ..] ? cell[1..] : cell;

    private static List<string[]> ReadCsv(string text)
    {
        using var reader = new CsvParser(
            new StringReader(text.TrimStart('\uFEFF')),
            new CsvConfiguration(CultureInfo.InvariantCulture)
            {
                Delimiter = $"{DelimiterOf(text)}",
                HasHeaderRecord = false,
            }
        );
        List<string[]> rows = [];
        while (reader.Read())
        {
            rows.Add(reader.Record!);
        }

        return rows;
    }

    /// <summary>Spreadsheets of some countries write semicolons; cells that hold them are quoted then.</summary>
    private static char DelimiterOf(string text)
    {
        var first = text.AsSpan(0, Math.Max(text.IndexOf('\n', StringComparison.Ordinal), 0));
        return first.Count(';') > first.Count(',') ? ';' : ',';
    }

    private static List<string[]> ReadXlsx(byte[] workbook)
    {
        using var stream = new MemoryStream(workbook);
        return
        [
            .. MiniExcel
                .Query(stream, useHeaderRow: false)
                .Cast<IDictionary<string, object?>>()
                .Select(row =>
                    row.Values.Select(v => Convert.ToString(v, CultureInfo.InvariantCulture) ?? "").ToArray()
                ),
        ];
    }

    /// <param name="only">The selected ones, as <c>series-3</c> or <c>blanket-2</c> with a comma between; absent for all.</param>
    private static async Task<Reply<DraftSchedule>> Drafts(string? only, [AsParameters] ApiContext context)
    {
        var (caller, db, calendar) = (context.Caller, context.Db, context.Calendar);
        var (series, blankets) = await WaitingAsync(caller, db, context.Cancel);
        var selected = Select(series, blankets, only?.Split(','));
        if (selected.Refused)
        {
            return selected.Refusal!;
        }

        var change = await OfDraftsAsync(selected.Value.Series, selected.Value.Blankets, db, calendar);
        return new DraftSchedule(
            [
                .. series.Select(s => new WaitingDraft(
                    "series",
                    s.Id,
                    s.Code,
                    s.Draft!.Title,
                    RuleWords.Short(s.Draft),
                    s.InForce is null ? null : RuleWords.Short(s.InForce),
                    s.DraftBy
                )),
                .. blankets.Select(b => new WaitingDraft(
                    "blanket",
                    b.Id,
                    "Blanket",
                    b.Name,
                    RuleWords.Short(b.Draft!),
                    b.InForce is null ? null : RuleWords.Short(b.InForce),
                    b.DraftBy
                )),
            ],
            await change.FiguresAsync(db, caller)
        );
    }

    private static async Task<Reply<ItemPage>> DraftsGroup(
        string group,
        string? cursor,
        string? only,
        [AsParameters] ApiContext context
    )
    {
        var (series, blankets) = await WaitingAsync(context.Caller, context.Db, context.Cancel);
        var selected = Select(series, blankets, only?.Split(','));
        if (selected.Refused)
        {
            return selected.Refusal!;
        }

        (series, blankets) = selected.Value;
        return await (await OfDraftsAsync(series, blankets, context.Db, context.Calendar)).GroupAsync(
            group,
            cursor,
            context.Caller,
            context.Db,
            context.Calendar
        );
    }

    private static async Task<Reply<Done>> Adopt(DraftAdoption request, [AsParameters] ApiContext context)
    {
        if (Problems.CheckWhy(request.Why) is { } unsaid)
        {
            return unsaid;
        }

        var done = await context.Writer.RunAsync<ActDone<Done>>(
            context.Caller.Actor,
            async session =>
            {
                var (series, blankets) = await WaitingAsync(context.Caller, session.Db, context.Cancel);
                if (series.Count + blankets.Count == 0)
                {
                    return Refusal.Conflict("no-draft", null, "There is no draft to put into effect.");
                }

                var selected = Select(series, blankets, request.Drafts);
                return selected.Refusal is { } refusal
                    ? refusal
                    : await ActRunner.RunAsync(
                        new ActContext(session, context.Caller, context.Calendar, context.Cancel),
                        AdoptDraftsHandler.Instance,
                        new AdoptDrafts(
                            [.. selected.Value.Series.Select(s => s.Id)],
                            [.. selected.Value.Blankets.Select(b => b.Id)],
                            request.Why.Trim()
                        ),
                        request.Why,
                        request.Fingerprint ?? ""
                    );
            },
            context.Cancel
        );
        return done.Refusal is { } not ? not
            : done.Value.ProposalId is not null ? done.Value.Waits
            : new Done();
    }

    /// <summary>Why these drafts cannot take effect together, or null.</summary>
    internal static async Task<Refusal?> GuardAsync(ActContext context, List<Series> series, List<Blanket> blankets)
    {
        foreach (var one in series)
        {
            if (await SeriesGuard.CheckAsync(context.Session, one, one.Draft!, context.Caller) is { } guarded)
            {
                return guarded;
            }

            if (SeriesGuard.BecomesWorm(one, one.Draft!))
            {
                return new(
                    "confirmation-needed",
                    null,
                    $"{one.Code} comes under WORM, which is confirmed by itself. Put it into effect on "
                        + $"its own page first. Nothing was done."
                );
            }
        }

        var needing = series
            .Select(s => (Rule: s.Code, Condition: SeriesGuard.SecondPerson(s, s.Draft!)))
            .Concat(blankets.Select(b => (Rule: $"“{b.Name}”", Condition: SeriesGuard.SecondPerson(b, b.Draft!))))
            .FirstOrDefault(n => n.Condition is not null);
        return needing.Condition is { } condition ? ByItself(needing.Rule, condition) : null;
    }

    private static Refusal ByItself(string rule, string condition) =>
        Refusal.Forbidden(
            "second-person-needed",
            null,
            $"{rule} needs a second person: {condition}. Put it into effect by itself first. Nothing was done."
        );

    /// <summary>Those of the waiting drafts that are named; all where none is. One that is not there any more is refused.</summary>
    private static Outcome<(List<Series> Series, List<Blanket> Blankets)> Select(
        List<Series> series,
        List<Blanket> blankets,
        IReadOnlyCollection<string>? only
    )
    {
        if (only is null)
        {
            return (series, blankets);
        }

        var (chosen, laid) = (
            series.FindAll(s => only.Contains($"series-{Wording.Id(s.Id)}")),
            blankets.FindAll(b => only.Contains($"blanket-{Wording.Id(b.Id)}"))
        );
        return only.Count == 0 ? new Refusal("no-draft", "drafts", "Select at least one draft.")
            : chosen.Count + laid.Count < only.Distinct().Count()
                ? Refusal.Conflict(
                    "draft-gone",
                    "drafts",
                    "A selected draft is not there any more. Look at the list again."
                )
            : (chosen, laid);
    }

    private static async Task<(List<Series> Series, List<Blanket> Blankets)> WaitingAsync(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var series = await db
            .Series.AsNoTracking()
            .Include(s => s.Unit)
            .Where(s => s.Draft != null && s.State != SeriesState.Retired)
            .OrderBy(s => s.Code)
            .ToListAsync(cancel);
        var blankets = await db
            .Blankets.AsNoTracking()
            .Include(b => b.Unit)
            .Where(b => b.Draft != null && b.State != BlanketState.Retired)
            .OrderBy(b => b.Name)
            .ToListAsync(cancel);
        return (
            [.. series.Where(s => caller.May(Right.WriteSchedule, s.UnitId))],
            [.. blankets.Where(b => caller.May(Right.WriteSchedule, b.UnitId))]
        );
    }

    private static async Task<RuleChange> OfSeriesAsync(
        WideKeelDb db,
        OrganisationCalendar calendar,
        IReadOnlyDictionary<long, SeriesRule?> rules
    )
    {
        var before = await Ruling.LoadAsync(db, calendar.Evaluator);
        var ids = System.Text.Json.JsonSerializer.Serialize(rules.Keys);
        return new(
            before,
            await before.WithSeriesAsync(db, rules),
            "i.SeriesId IN (SELECT value FROM json_each($changed))",
            c => c.Parameters.AddWithValue("$changed", ids)
        );
    }

    /// <summary>All drafts together against what is in force, for every item that any of them reaches.</summary>
    internal static async Task<RuleChange> OfDraftsAsync(
        IReadOnlyList<Series> series,
        IReadOnlyList<Blanket> blankets,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var change = await OfSeriesAsync(
            db,
            calendar,
            series.ToDictionary(s => s.Id, s => (SeriesRule?)s.Draft!.Check(s.Code).Value)
        );
        var containers = await Ruling.ContainersAsync(db);
        HashSet<long> reached = [];
        var after = change.After;
        foreach (var blanket in blankets)
        {
            var covered = Ruling.Reached(blanket.Draft!.Reach, blanket.Unit!.Path, containers, calendar.Today);
            reached.UnionWith(covered);
            reached.UnionWith(
                blanket.InForce is null
                    ? []
                    : Ruling.Reached(blanket.InForce.Reach, blanket.Unit.Path, containers, calendar.Today)
            );
            after = after.WithBlanket(blanket.Name, blanket.Draft.Check(blanket.Name).Value, covered);
        }

        var reach = System.Text.Json.JsonSerializer.Serialize(reached);
        return change with
        {
            After = after,
            Where = $"({change.Where} OR i.ContainerId IN (SELECT value FROM json_each($reach)))",
            Bind = c =>
            {
                change.Bind!(c);
                c.Parameters.AddWithValue("$reach", reach);
            },
        };
    }

    private static SheetRow RowOf(Series series, Dictionary<long, string> units) =>
        new(series.Code, units[series.UnitId], (series.Draft ?? series.InForce)!, series.Revision);

    /// <summary>Units by their names from the root down.</summary>
    private static async Task<Dictionary<long, string>> UnitNamesAsync(WideKeelDb db)
    {
        var units = await db.Units.AsNoTracking().ToDictionaryAsync(u => u.Id);
        return units.Values.ToDictionary(
            u => u.Id,
            u =>
                string.Join(
                    " / ",
                    u.Path.Split('/', StringSplitOptions.RemoveEmptyEntries)
                        .Select(id => units[long.Parse(id, CultureInfo.InvariantCulture)].Name)
                )
        );
    }
}
