using System.Globalization;
using System.Text.Json;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>One series as a row of a spreadsheet.</summary>
/// <param name="Revision">Of the series when the sheet was made; null in a row that somebody added.</param>
public sealed record SheetRow(string Code, string Unit, SeriesDefinition Definition, long? Revision);

/// <summary>One cell that differs.</summary>
public sealed record CellChange(string Column, string Before, string After);

/// <summary>
/// A schedule as rows and columns: what goes out comes back the same. Lists are separated by semicolons; a clause is
/// its period, its trigger and, where there is one, its cutoff: <c>P7Y created fiscal; P1Y event:crew-member-left</c>.
/// </summary>
public static class ScheduleSheet
{
    private static readonly Dictionary<string, Func<SheetRow, string>> Cells = new()
    {
        ["code"] = r => r.Code,
        ["title"] = r => r.Definition.Title,
        ["unit"] = r => r.Unit,
        ["function"] = r => r.Definition.Descriptors.Function,
        ["activity"] = r => r.Definition.Descriptors.Activity,
        ["sub-activity"] = r => r.Definition.Descriptors.SubActivity,
        ["department"] = r => r.Definition.Descriptors.Department,
        ["tags"] = r => string.Join("; ", r.Definition.Descriptors.Tags),
        ["owner"] = r => r.Definition.Owner,
        ["authorities"] = r => string.Join("; ", r.Definition.Authorities),
        ["permanent"] = r => r.Definition.Permanent ? "yes" : "no",
        ["join"] = r => r.Definition.Clauses.Count > 1 ? Word(r.Definition.Join) : "",
        ["clauses"] = r => string.Join("; ", r.Definition.Clauses.Select(Clause)),
        ["at-end"] = r => Word(r.Definition.AtEnd),
        ["grade"] = r => Word(r.Definition.Grade),
        ["ratchet"] = r => r.Definition.Ratchet ? "yes" : "no",
        ["grace-days"] = r => r.Definition.GraceDays.ToString(CultureInfo.InvariantCulture),
        ["stages"] = r => string.Join("; ", r.Definition.Stages.Select(s => s.Text)),
        ["description"] = r => r.Definition.Description,
        ["guidance"] = r => r.Definition.Guidance,
        ["revision"] = r => r.Revision?.ToString(CultureInfo.InvariantCulture) ?? "",
    };

    /// <summary>In the order in which they are written.</summary>
    public static IReadOnlyList<string> Columns { get; } = [.. Cells.Keys];

    public static string[] Write(SheetRow row) => [.. Cells.Values.Select(cell => cell(row))];

    /// <summary>The cells that differ, but for the revision.</summary>
    public static IReadOnlyList<CellChange> Differences(SheetRow before, SheetRow after) =>
        [
            .. Cells
                .Where(c => c.Key != "revision" && c.Value(before) != c.Value(after))
                .Select(c => new CellChange(c.Key, c.Value(before), c.Value(after))),
        ];

    /// <summary>Reads a row; the first mistake names its column.</summary>
    /// <param name="cells">By column. A column that the sheet lacks keeps what <paramref name="known"/> has.</param>
    /// <param name="known">The series as it is now; null for a new one.</param>
    public static Outcome<SheetRow> Read(IReadOnlyDictionary<string, string> cells, SheetRow? known)
    {
        try
        {
            var now = known is null ? null : Columns.Zip(Write(known)).ToDictionary(c => c.First, c => c.Second);
            string Text(string column) => cells.TryGetValue(column, out var value) ? value.Trim() : now?[column] ?? "";
            var code = SeriesCode.Parse(Text("code"));
            if (code.Refusal is { } wrongCode)
            {
                return wrongCode;
            }

            var permanent = Flag("permanent", Text("permanent"));
            var definition = new SeriesDefinition(
                Text("title"),
                Text("description"),
                Text("guidance"),
                new(Text("function"), Text("activity"), Text("sub-activity"), Text("department"), List(Text("tags"))),
                Text("owner"),
                List(Text("authorities")),
                permanent,
                Text("join").Length == 0
                    ? known?.Definition.Join ?? ClauseJoin.Later
                    : Choice<ClauseJoin>("join", Text("join")),
                [.. List(Text("clauses")).Select(Clause)],
                Choice<EndAction>("at-end", Text("at-end") is { Length: > 0 } end ? end : Word(EndAction.SignOff)),
                Choice<Grade>("grade", Text("grade") is { Length: > 0 } grade ? grade : Word(Grade.Kept)),
                Flag("ratchet", Text("ratchet")),
                Text("grace-days") is not { Length: > 0 } days ? 90
                    : int.TryParse(days, NumberStyles.None, CultureInfo.InvariantCulture, out var grace) ? grace
                    : throw new CellException("grace-days", $"“{days}” is no number of days."),
                [.. List(Text("stages")).Select(StageOf)]
            );
            var checkedRule = definition.Check(code.Value.Value);
            return checkedRule.Refusal is { } wrong
                ? wrong with
                {
                    Field = ColumnOf(wrong.Field),
                }
                : new SheetRow(
                    code.Value.Value,
                    Text("unit"),
                    definition,
                    cells.TryGetValue("revision", out var revision)
                    && long.TryParse(revision, NumberStyles.None, CultureInfo.InvariantCulture, out var number)
                        ? number
                        : null
                );
        }
        catch (CellException e)
        {
            return new Refusal("cell-malformed", e.Column, e.Message);
        }
    }

    private static Stage StageOf(string text) =>
        Stage.Parse(text)
        ?? throw new CellException(
            "stages",
            $"“{text}” is no stage; write records-manager or steward, and perhaps who: "
                + "steward: a@b.example, deputy c@b.example, 7 days."
        );

    private static string Clause(ClauseText clause) =>
        clause.Cutoff == Cutoff.None
            ? $"{clause.Period} {clause.Trigger}"
            : $"{clause.Period} {clause.Trigger} {Word(clause.Cutoff)}";

    private static ClauseText Clause(string text) =>
        text.Split(' ', StringSplitOptions.RemoveEmptyEntries) switch
        {
            [var period, var trigger] => new(trigger, Cutoff.None, period),
            [var period, var trigger, var cutoff] => new(trigger, Choice<Cutoff>("clauses", cutoff), period),
            _ => throw new CellException(
                "clauses",
                $"“{text}” is no clause; write period, trigger and perhaps cutoff: P7Y created fiscal."
            ),
        };

    private static List<string> List(string text) =>
        [.. text.Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)];

    private static bool Flag(string column, string text) =>
        text.ToLowerInvariant() switch
        {
            "yes" or "true" => true,
            "" or "no" or "false" => false,
            _ => throw new CellException(column, $"“{text}” is neither yes nor no."),
        };

    private static T Choice<T>(string column, string text)
        where T : struct, Enum
    {
        var words = Enum.GetValues<T>().ToDictionary(Word);
        return words.TryGetValue(text.ToLowerInvariant(), out var value)
            ? value
            : throw new CellException(column, $"“{text}” is none of {string.Join(", ", words.Keys)}.");
    }

    private static string Word<T>(T value)
        where T : struct, Enum => JsonNamingPolicy.KebabCaseLower.ConvertName(value.ToString());

    /// <summary>The column in which a part of a definition stands.</summary>
    private static string? ColumnOf(string? field) =>
        field is null ? null
        : field.StartsWith("clauses", StringComparison.Ordinal) ? "clauses"
        : field.StartsWith("stages", StringComparison.Ordinal) ? "stages"
        : JsonNamingPolicy.KebabCaseLower.ConvertName(field);

    private sealed class CellException(string column, string message) : Exception(message)
    {
        public string Column { get; } = column;
    }
}
