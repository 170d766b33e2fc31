using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;

namespace WideKeel.Server.Activity;

/// <summary>Alerts and watches, for statements.</summary>
internal sealed class AlertViews : ISqlViewSource
{
    public IReadOnlyList<(SqlView View, Func<Caller, bool> May)> Views { get; } =
    [
        (
            new(
                "alerts",
                "Alerts that rest on what you may read, those that repeat another included.",
                StatementViews.Columns(
                    "id BIGINT, watch VARCHAR, happened_at VARCHAR, who VARCHAR, address VARCHAR, object VARCHAR, severity "
                        + "VARCHAR, risk BIGINT, state VARCHAR, answered_at VARCHAR, reason VARCHAR, owner VARCHAR, "
                        + "repeats BIGINT, withdrawn BOOLEAN"
                )
            ),
            c => c.May(Right.ReadActivity)
        ),
        (
            new(
                "watches",
                "Watches, with how many alerts each raised.",
                StatementViews.Columns("id BIGINT, name VARCHAR, is_on BOOLEAN, alerts BIGINT")
            ),
            c => c.May(Right.ReadActivity)
        ),
    ];

    public async IAsyncEnumerable<object?[]> RowsAsync(string view, StatementGround ground)
    {
        var access = await ChannelAccess.OfAsync(ground.Caller, ground.Db, ground.Cancel);
        var visible = access.Of(ground.Db.Alerts.AsNoTracking());
        var watches = await ground.Db.Watches.AsNoTracking().OrderBy(w => w.Id).ToListAsync(ground.Cancel);
        if (view == "watches")
        {
            foreach (var w in watches)
            {
                var raised = await visible.LongCountAsync(a => a.WatchId == w.Id && !a.Withdrawn, ground.Cancel);
                yield return [w.Id, w.Name, w.On, raised];
            }

            yield break;
        }

        var names = watches.ToDictionary(w => w.Id, w => w.Name);
        var people = await ground.Db.Users.ToDictionaryAsync(p => p.Id, p => p.DisplayName, ground.Cancel);
        await foreach (var a in visible.OrderBy(a => a.Id).AsAsyncEnumerable())
        {
            yield return
            [
                a.Id,
                names[a.WatchId],
                a.At.ToString(),
                a.Actor ?? a.Key,
                a.Address,
                a.Object,
                a.Severity.ToString(),
                (long)a.Risk,
                a.State.ToString(),
                a.AnsweredAt?.ToString(),
                a.Reason,
                a.OwnerId is { } owner ? people.GetValueOrDefault(owner) : null,
                a.FoldedInto,
                a.Withdrawn,
            ];
        }
    }
}
