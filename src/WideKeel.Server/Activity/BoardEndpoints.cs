using System.Globalization;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.People;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>One bar of a chart.</summary>
/// <param name="Query">CQL that finds the events behind it.</param>
public sealed record BoardRow(string Label, long Value, string Query);

/// <param name="Days">True where the bars are days, in their order.</param>
/// <param name="Says">One sentence on what it shows.</param>
public sealed record BoardChart(string Title, string Says, bool Days, IReadOnlyList<BoardRow> Rows);

public sealed record Board(string Name, string Title, long Total, IReadOnlyList<BoardChart> Charts);

/// <summary>Five boards: each chart is counted from events, and each of its bars opens into them.</summary>
public static class BoardEndpoints
{
    private const int MostBars = 10;

    /// <summary>What one chart counts: the events of a query, by a column or by day.</summary>
    /// <param name="By">Null: by day.</param>
    private sealed record Definition(string Title, string Says, string Query, EventColumn? By);

    private static readonly Dictionary<string, (string Title, Definition[] Charts)> Boards = new()
    {
        ["overview"] = (
            "Overview",
            [
                new("Events a day", "All channels together.", "", null),
                new("What was done", "The most frequent actions.", "", EventColumn.Action),
                new("By channel", "Where the events come from.", "", EventColumn.Channel),
                new("Who did most", "People and services with the most events.", "", EventColumn.Actor),
                new("What failed", "Actions that ended in failure.", "outcome = failure", EventColumn.Action),
                new("From which networks", "As the organisation names them.", "", EventColumn.Network),
            ]
        ),
        ["sign-ins"] = (
            "Sign-ins",
            [
                new("Failed sign-ins a day", "Each failed attempt.", "action = sign-in and outcome = failure", null),
                new(
                    "Why they failed",
                    "By the code of the source.",
                    "action = sign-in and outcome = failure",
                    EventColumn.Code
                ),
                new(
                    "Whose sign-ins failed",
                    "By account.",
                    "action = sign-in and outcome = failure",
                    EventColumn.Actor
                ),
                new(
                    "From which addresses",
                    "Of failed attempts.",
                    "action = sign-in and outcome = failure",
                    EventColumn.Address
                ),
                new(
                    "From which countries",
                    "Of those that succeeded.",
                    "action = sign-in and outcome = success",
                    EventColumn.Country
                ),
                new(
                    "To which applications",
                    "Of those that succeeded.",
                    "action = sign-in and outcome = success",
                    EventColumn.Application
                ),
            ]
        ),
        ["sharing"] = (
            "Sharing",
            [
                new("Shared a day", "Shares, links and invitations.", "category = sharing", null),
                new("With whom", "Who was given something.", "category = sharing", EventColumn.Target),
                new("By whom", "Who shared.", "category = sharing", EventColumn.Actor),
                new("What", "The objects that were shared.", "category = sharing", EventColumn.Object),
                new("From where", "The containers that they lie in.", "category = sharing", EventColumn.Container),
                new("Links that anyone opens", "By who made them.", "action = share.link", EventColumn.Actor),
            ]
        ),
        ["destruction"] = (
            "Destruction",
            [
                new("Deleted a day", "Files and messages.", "action = file.delete", null),
                new("By whom", "Who deleted.", "action = file.delete", EventColumn.Actor),
                new("Where", "The containers that it happened in.", "action = file.delete", EventColumn.Container),
                new("From which devices", "The machines that were used.", "action = file.delete", EventColumn.Device),
                new(
                    "Destroyed by rule",
                    "What the schedule destroyed, by job.",
                    "action = destroyed",
                    EventColumn.Actor
                ),
                new(
                    "Logging stopped",
                    "While it was off, deletions leave no trace.",
                    "action = log.stop",
                    EventColumn.Device
                ),
            ]
        ),
        ["administration"] = (
            "Administration",
            [
                new(
                    "Acts a day",
                    "Accounts, roles, permissions and settings.",
                    "category any \"admin permission configuration\"",
                    null
                ),
                new("What", "By action.", "category any \"admin permission configuration\"", EventColumn.Action),
                new("By whom", "Who did it.", "category any \"admin permission configuration\"", EventColumn.Actor),
                new("Roles given", "To whom.", "action = role.add", EventColumn.Target),
                new("Consents", "Applications that were let in.", "action = app.consent", EventColumn.Object),
                new("Forwarding set", "Whose mail goes where.", "action = mail.forward-set", EventColumn.Target),
            ]
        ),
    };

    /// <summary>The boards by their names.</summary>
    internal static IEnumerable<(string Name, string Title)> Titles => Boards.Select(b => (b.Key, b.Value.Title));

    public static void MapBoards(this IEndpointRouteBuilder api) =>
        api.MapGet("/activity/boards/{name}", Show).Requires(Right.ReadActivity);

    private static async Task<Reply<Board>> Show(
        string name,
        DateTimeOffset? from,
        DateTimeOffset? before,
        [AsParameters] ApiContext context
    )
    {
        if (!Boards.TryGetValue(name, out var board))
        {
            return Problems.NotFound("board");
        }

        List<BoardChart> charts = [];
        foreach (var chart in board.Charts)
        {
            charts.Add(await ChartAsync(chart, from, before, context));
        }

        var all = (await EventQuestion.ReadAsync(null, from, before, context)).Value;
        return new Board(name, board.Title, new EventTally(all).Total(), charts);
    }

    private static async Task<BoardChart> ChartAsync(
        Definition chart,
        DateTimeOffset? from,
        DateTimeOffset? before,
        ApiContext context
    )
    {
        var question = (await EventQuestion.ReadAsync(chart.Query, from, before, context)).Value;
        var and = chart.Query.Length == 0 ? "" : $"{chart.Query} and ";
        IReadOnlyList<BoardRow> rows = chart.By is { } column
            ?
            [
                .. new EventTally(question)
                    .Values([column], MostBars)[0]
                    .Select(v => new BoardRow(
                        v.Value,
                        v.Count,
                        $"{and}{column.Name} == {EventEndpoints.Quoted(v.Value)}"
                    )),
            ]
            :
            [
                .. new EventTally(question)
                    .ByTime(EventCounts.DayMilliseconds)
                    .OrderBy(d => d.Key)
                    .Select(d => (Day: Day(d.Key), Count: d.Value.All))
                    .Select(d => new BoardRow(d.Day, d.Count, $"{and}time = {d.Day}")),
            ];
        return new(chart.Title, chart.Says, chart.By is null, rows);
    }

    private static string Day(long number) =>
        Instant
            .FromUnixTimeMilliseconds(number * EventCounts.DayMilliseconds)
            .InUtc()
            .Date.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture);
}
