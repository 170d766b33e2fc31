using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Server.Content;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <param name="Fingerprint">Of the figures; sent back with the act, which is refused when they have changed
/// since.</param>
/// <param name="Untouchable">Items in reach that the change leaves alone: on the docket or destroyed.</param>
public sealed record ConsequencesView(
    ConsequenceFigures Figures,
    IReadOnlyList<ContainerName> Containers,
    string Fingerprint,
    long Untouchable
) : IFigures
{
    /// <summary>How the rule stands to each authority that the series rests on.</summary>
    public IReadOnlyList<AuthorityFinding> Authorities { get; init; } = [];

    /// <summary>
    /// Whose holds keep back what would become due: those matters that the viewer is a member of. An item that two of
    /// them hold is told for both.
    /// </summary>
    public IReadOnlyList<MatterHolds> HeldBy { get; init; } = [];

    /// <summary>How many are kept back by none of these: for a reason that the viewer is not told.</summary>
    public long HeldOtherwise { get; init; }

    /// <summary>Why another person must agree before it is done; null where nobody need.</summary>
    public string? SecondPerson { get; init; }

    /// <summary>The proposal that was made instead of doing it.</summary>
    public long? ProposalId { get; init; }

    public string DifferenceFrom(string stored)
    {
        var was = JsonSerializer.Deserialize<ConsequencesView>(stored, Json.Options)!.Figures;
        (string Words, long Was, long Now)[] all =
        [
            ("in reach", was.InReach.Items, Figures.InReach.Items),
            ("due at once", was.BecomeDue.Items, Figures.BecomeDue.Items),
            ("kept for a shorter time", was.Sooner.Items, Figures.Sooner.Items),
            ("protected by nothing", was.LoseProtection.Items, Figures.LoseProtection.Items),
            ("disposed of sooner", was.DisposableSooner.Items, Figures.DisposableSooner.Items),
        ];
        var differ = all.Where(f => f.Was != f.Now)
            .Select(f => $"{Wording.Number(f.Now)} items are {f.Words} now, {Wording.Number(f.Was)} then")
            .ToList();
        return differ.Count == 0 ? "the months or places differ" : string.Join("; ", differ);
    }
}

public sealed record ContainerName(long Id, string Name);

/// <summary>How many items the orders of one matter keep back.</summary>
public sealed record MatterHolds(long MatterId, string Number, string Name, long Items);

/// <summary>One item before and after a change. Its row's clocks are not to be kept.</summary>
public readonly record struct ItemChange(FactsRow Row, Standing Before, Standing After);

/// <summary>
/// What a change would do, exactly: one pass over every item in reach, before and after, with the functions that will
/// do it.
/// </summary>
/// <param name="Where">The reach: a condition over the alias <c>i</c>.</param>
/// <param name="SeriesAfter">Under which series an item would be filed; null where the change files nothing.</param>
internal sealed record RuleChange(
    Ruling Before,
    Ruling After,
    string Where,
    Action<SqliteCommand>? Bind,
    Func<long?, long?>? SeriesAfter = null
)
{
    private const int GroupRows = 100;

    /// <summary>The group of everything in reach.</summary>
    private const string All = "all";

    private const char HolderMark = '-';
    private const string Otherwise = "otherwise";

    /// <summary>A draft of a series against what is in force, for the items filed under it.</summary>
    public static async Task<RuleChange> OfSeriesAsync(
        WideKeelDb db,
        OrganisationCalendar calendar,
        long seriesId,
        SeriesRule? after
    )
    {
        var before = await Ruling.LoadAsync(db, calendar.Evaluator, [seriesId]);
        return new(
            before,
            await before.WithSeriesAsync(db, new Dictionary<long, SeriesRule?> { [seriesId] = after }),
            "i.SeriesId = $seriesId",
            c => c.Parameters.AddWithValue("$seriesId", seriesId)
        );
    }

    /// <summary>Every item in reach that the change may touch, whatever it does to it.</summary>
    /// <param name="part">Which of them: a condition over <c>i</c>.</param>
    public IEnumerable<ItemChange> Pass(SqliteConnection connection, string part = "1")
    {
        foreach (
            var row in ItemScan.Facts(
                connection,
                Before.Clocks.And(After.Clocks),
                $"i.BatchId IS NULL AND {part} AND {Where}",
                Bind,
                Before.Evaluator.Today
            )
        )
        {
            yield return new(
                row,
                Before.Of(row),
                After.Of(row, SeriesAfter is null ? row.SeriesId : SeriesAfter(row.SeriesId))
            );
        }
    }

    /// <param name="viewer">Who looks at them, and is told whose holds they meet; null where they are only
    /// compared.</param>
    public async Task<ConsequencesView> FiguresAsync(WideKeelDb db, Caller? viewer = null)
    {
        var parts = await SharedPass.RunAsync(db, (connection, part) => Count(connection, part, viewer is not null));
        var consequences = new Consequences(Before.Evaluator.Today);
        foreach (var part in parts)
        {
            consequences.Add(part.Consequences);
        }

        var figures = consequences.Figures();
        var ids = figures.ByContainer.Select(c => c.ContainerId).ToList();
        var names = await db
            .Containers.AsNoTracking()
            .Where(c => ids.Contains(c.Id))
            .Select(c => new ContainerName(c.Id, c.Name))
            .ToListAsync();
        var fingerprint = Convert.ToHexStringLower(
            SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes(figures, Json.Options))
        )[..16];
        var (heldBy, otherwise) = await HoldersAsync([.. parts.SelectMany(p => p.HeldBack)], viewer, db);
        return new(figures, names, fingerprint, parts.Sum(p => p.Untouchable))
        {
            HeldBy = heldBy,
            HeldOtherwise = otherwise,
            SecondPerson = ActRunner.Condition(parts.Aggregate(default(CustodyLoss), (loss, p) => loss + p.Loss)),
        };
    }

    private (Consequences Consequences, List<long> HeldBack, long Untouchable, CustodyLoss Loss) Count(
        SqliteConnection connection,
        string part,
        bool listHeldBack
    )
    {
        var consequences = new Consequences(Before.Evaluator.Today);
        List<long> heldBack = [];
        CustodyLoss loss = default;
        foreach (var change in Pass(connection, part))
        {
            loss = loss.Plus(Custody.Of(change.Before, change.After, Before.Evaluator.Today), change.Row.Bytes);
            if (
                consequences
                    .Add(change.Row.ContainerId, change.Row.Bytes, change.Before, change.After, change.Row.Held)
                    .HasFlag(Effects.HeldBack) && listHeldBack
            )
            {
                heldBack.Add(change.Row.Id);
            }
        }

        using var command = connection.CreateCommand();
        command.CommandText =
            $"SELECT COUNT(*) FROM item i WHERE (i.BatchId IS NOT NULL OR i.DestroyedAt IS NOT NULL) AND {part} AND {Where}";
        Bind?.Invoke(command);
        return (consequences, heldBack, (long)command.ExecuteScalar()!, loss);
    }

    private async Task<(List<MatterHolds> By, long Otherwise)> HoldersAsync(
        List<long> held,
        Caller? viewer,
        WideKeelDb db
    )
    {
        var told = await HoldersOfAsync(held, viewer, db);
        var matters = told.Select(t => t.Matter).Distinct().ToList();
        var names = await db.Matters.AsNoTracking().Where(m => matters.Contains(m.Id)).ToDictionaryAsync(m => m.Id);
        return (
            [
                .. told.GroupBy(t => t.Matter)
                    .Select(g => new MatterHolds(g.Key, names[g.Key].Number, names[g.Key].Name, g.Count()))
                    .OrderBy(m => m.MatterId),
            ],
            held.Count - told.Select(t => t.Item).Distinct().Count()
        );
    }

    /// <summary>Which of the viewer's matters hold which of these items.</summary>
    private async Task<List<(long Matter, long Item)>> HoldersOfAsync(List<long> held, Caller? viewer, WideKeelDb db)
    {
        var matters = viewer?.Matters.Keys.ToList() ?? [];
        if (held.Count == 0 || matters.Count == 0)
        {
            return [];
        }

        var pairs = await (
            from hold in db.HoldItems.AsNoTracking().On(Before.Evaluator.Today)
            join order in db.HoldOrders on hold.OrderId equals order.Id
            where matters.Contains(order.MatterId) && held.Contains(hold.ItemId)
            select new { order.MatterId, hold.ItemId }
        )
            .Distinct()
            .ToListAsync();
        return [.. pairs.Select(p => (p.MatterId, p.ItemId))];
    }

    /// <summary>
    /// Reads the name of a group: <c>heldBack-3</c> is that of matter 3, <c>heldBack-otherwise</c> that of none that the
    /// caller knows.
    /// </summary>
    /// <returns>Null for a group that does not exist.</returns>
    private static (Effects Effects, string? Holder)? GroupOf(string group)
    {
        if (group == All)
        {
            return (Effects.None, null);
        }

        var (kind, holder) = group.Split(HolderMark, 2) is [var first, var second] ? (first, second) : (group, null);
        return
            Enum.TryParse<Effects>(kind, ignoreCase: true, out var effects)
            && Enum.IsDefined(effects)
            && (holder is null || effects == Effects.HeldBack)
            ? (effects, holder)
            : null;
    }

    /// <summary>Those of some items that one matter holds, or none that the caller knows.</summary>
    /// <param name="items">In the order of their ids, as what is returned.</param>
    /// <returns>Null where the caller knows of no such matter.</returns>
    private async Task<List<long>?> HeldByAsync(string holder, List<long> items, Caller caller, WideKeelDb db)
    {
        var known = await HoldersOfAsync(items, caller, db);
        return holder == Otherwise ? [.. items.Except(known.Select(t => t.Item))]
            : long.TryParse(holder, CultureInfo.InvariantCulture, out var matter) && caller.Matters.ContainsKey(matter)
                ? [.. known.Where(t => t.Matter == matter).Select(t => t.Item).Order()]
            : null;
    }

    /// <summary>The items of one group, for the list that a figure opens into.</summary>
    /// <param name="group">An effect, <c>heldBack</c> also with the matter that holds, <c>none</c> for what stays as it
    /// is, or <c>all</c>.</param>
    public async Task<Outcome<ItemPage>> GroupAsync(
        string group,
        string? cursor,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        if (!caller.May(Right.ReadContent))
        {
            return Refusal.Forbidden(
                "not-allowed",
                null,
                "You see how many items these are; which ones they are is for those who may read content."
            );
        }

        if (GroupOf(group) is not var (effects, holder))
        {
            return Problems.NotFound("group");
        }

        var from = cursor is null ? 0 : Cursor.Read(cursor)?.Id ?? 0;
        var today = Before.Evaluator.Today;
        var parts = await SharedPass.RunAsync(
            db,
            (connection, part) =>
                Pass(connection, part)
                    .Where(c =>
                        group == All
                        || (
                            Consequences.EffectsOf(c.Before, c.After, today, c.Row.Held) is var found
                            && (effects == Effects.None ? found == Effects.None : found.HasFlag(effects))
                        )
                    )
                    .Select(c => c.Row.Id)
                    .ToList()
        );
        var all = parts.SelectMany(p => p).Order().ToList();
        if (holder is not null)
        {
            var held = await HeldByAsync(holder, all, caller, db);
            if (held is null)
            {
                return Problems.NotFound("group");
            }

            all = held;
        }

        var ids = all.Where(i => i > from).Take(GroupRows + 1).ToList();
        var rows = await ItemEndpoints.RowsAsync([.. ids.Take(GroupRows)], db, calendar);
        return new ItemPage(
            [.. ids.Take(GroupRows).Select(i => rows[i])],
            ids.Count > GroupRows ? Cursor.Write(0L, ids[GroupRows - 1]) : null,
            all.Count,
            0
        );
    }

    /// <summary>The refusal where the figures are not those that were on screen.</summary>
    public static Refusal? CheckSeen(ConsequencesView now, string? fingerprint) =>
        now.Fingerprint == fingerprint
            ? null
            : Refusal.Conflict(
                "consequences-changed",
                "fingerprint",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"The consequences have changed since you looked: {now.Figures.BecomeDue.Items:N0} items "
                        + $"would become due today. Nothing was done; look again."
                )
            );
}
