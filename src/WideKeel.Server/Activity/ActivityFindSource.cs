using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Activity;
using WideKeel.Core.People;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>Finds events by their ids, boards, ready statements, channels and watches.</summary>
internal sealed class ActivityFindSource : IFindSource
{
    private const int MostStatements = 4;

    public async Task<IReadOnlyList<FindHit>> FindAsync(FindQuestion asked)
    {
        if (!asked.Caller.May(Right.ReadActivity))
        {
            return [];
        }

        var access = await ChannelAccess.OfAsync(asked.Caller, asked.Db, asked.Cancel);
        List<FindHit> hits = [.. await EventsAsync(asked, access)];
        hits.AddRange(
            BoardEndpoints
                .Titles.Where(b => asked.Fits(b.Title))
                .Select(b => new FindHit("board", b.Title, "Board of activity", $"/activity?board={b.Name}"))
        );
        hits.AddRange(
            ReadyStatements
                .All.Where(s => asked.Fits(s.Name))
                .Take(MostStatements)
                .Select(s => new FindHit(
                    "statement",
                    s.Name,
                    s.Says,
                    $"/activity/sql?statement={Uri.EscapeDataString(s.Name)}"
                ))
        );
        hits.AddRange(
            access
                .Channels.Where(c => asked.Fits(c.Title) || asked.Fits(c.Name))
                .Select(c => new FindHit(
                    "channel",
                    c.Title,
                    "Channel of activity",
                    $"/activity/search?cql={Uri.EscapeDataString($"channel == {c.Name}")}"
                ))
        );
        var watches = await asked
            .Db.Watches.AsNoTracking()
            .OrderBy(w => w.Name)
            .Select(w => new
            {
                w.Id,
                w.Name,
                w.On,
            })
            .ToListAsync(asked.Cancel);
        hits.AddRange(
            watches
                .Where(w => asked.Fits(w.Name))
                .Take(MostStatements)
                .Select(w => new FindHit(
                    "watch",
                    w.Name,
                    w.On ? "Watch, on" : "Watch, off",
                    $"/activity/watches?watch={Wording.Id(w.Id)}"
                ))
        );
        return hits;
    }

    private static async Task<IEnumerable<FindHit>> EventsAsync(FindQuestion asked, ChannelAccess access)
    {
        await asked.Db.Database.OpenConnectionAsync(asked.Cancel);
        return
        [
            .. EventStore
                .Read(
                    (SqliteConnection)asked.Db.Database.GetDbConnection(),
                    $"e.SourceId = $id AND {access.Where} LIMIT 3",
                    command =>
                    {
                        access.Bind(command);
                        command.Parameters.AddWithValue("$id", asked.Words.Trim());
                    }
                )
                .Select(e => new FindHit(
                    "event",
                    $"{e.Event.Actor ?? "Somebody"} {EventActions.WordsOf(e.Event.Action ?? "")} {e.Event.Object}",
                    $"{EventLine.Text(e.Event.Time)} · {e.Event.Channel}",
                    $"/activity/search?days=all&event={e.Id}"
                )),
        ];
    }
}
