using System.Globalization;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Disposition;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <param name="Link">Where it is seen and mended.</param>
public sealed record HealthRow(string Title, string Note, string Link);

/// <summary>One thing that may be wrong with the schedule.</summary>
/// <param name="Count">Series, rules, events or items; 0 is well.</param>
/// <param name="What">What the count counts, for one and for many.</param>
/// <param name="Meaning">Why it matters, in a sentence.</param>
/// <param name="Fix">What to do about it.</param>
/// <param name="Rows">The worst first; at most <see cref="HealthEndpoints.MostRows"/>.</param>
/// <param name="Link">All of the rows in a list of their own, where there is one.</param>
public sealed record HealthLine(
    string Key,
    string Title,
    long Count,
    string What,
    string Meaning,
    string Fix,
    IReadOnlyList<HealthRow> Rows,
    string? Link
);

/// <summary>Lines that another part adds to the schedule's health.</summary>
public interface IHealthSource : IContribution
{
    Task<IReadOnlyList<HealthLine>> OfAsync(DutyQuestion asked);
}

public static class HealthEndpoints
{
    public const int MostRows = 50;

    /// <summary>An item that waits longer than this for its event has probably been forgotten.</summary>
    private const int WaitingYears = 5;

    /// <summary>An item that its series let go so long ago is kept by a blanket alone.</summary>
    private const int OverYears = 2;

    public static void MapHealth(this IEndpointRouteBuilder api) =>
        api.MapGet("/schedule/health", Show).Requires(Right.WriteSchedule);

    private static async Task<Reply<IReadOnlyList<HealthLine>>> Show(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        IEnumerable<IHealthSource> others,
        CancellationToken cancel
    )
    {
        var all = await db
            .Series.AsNoTracking()
            .Include(s => s.Unit)
            .Where(s => s.State != SeriesState.Retired)
            .OrderBy(s => s.Code)
            .ToListAsync(cancel);
        List<(Series Series, SeriesDefinition Definition)> series =
        [
            .. all.Where(s => caller.May(Right.WriteSchedule, s.UnitId)).Select(s => (s, (s.InForce ?? s.Draft)!)),
        ];
        List<HealthLine> lines =
        [
            .. await OfSeriesAsync(series, caller, db, cancel),
            OfClashes(await FilingRuleEndpoints.ClashesAsync(caller, db, calendar, cancel)),
            OfNeverFired(await TriggerEventEndpoints.TypesAsync(caller, db, cancel)),
            .. await ToMendAsync(caller, db, calendar),
            .. await OfItemsAsync(caller, db, calendar),
        ];
        foreach (var other in others)
        {
            lines.AddRange(await other.OfAsync(new(caller, db, calendar, cancel)));
        }

        return (Outcome<IReadOnlyList<HealthLine>>)lines;
    }

    private static async Task<List<HealthLine>> OfSeriesAsync(
        List<(Series Series, SeriesDefinition Definition)> series,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var findings = await FindingsAsync(series, db, cancel);
        return
        [
            OfSeries(
                "short",
                "Short of an authority",
                "An item could be destroyed while the law still asks for it.",
                "Lengthen the period, or judge the trigger anew.",
                findings
                    .Where(f => f.Finding.Verdict == AuthorityVerdict.Short)
                    .Select(f => Row(f.Series, $"{f.Finding.Authority}: {f.Finding.Sentence}"))
            ),
            OfSeries(
                "exceeds",
                "Longer than an authority allows",
                "Privacy law sets an end to keeping.",
                "Shorten the period.",
                findings
                    .Where(f => f.Finding.Verdict == AuthorityVerdict.ExceedsMost)
                    .Select(f => Row(f.Series, $"{f.Finding.Authority}: {f.Finding.Sentence}"))
            ),
            OfSeries(
                "no-authority",
                "Series without an authority",
                "Nobody can say why it is kept for so long.",
                "Cite what it rests on.",
                series
                    .Where(s => s.Definition.Authorities.Count == 0)
                    .Select(s => Row(s.Series, RuleWords.Short(s.Definition)))
            ),
            OfSeries(
                "no-owner",
                "Series without an owner",
                "Nobody answers for it.",
                "Name an owner.",
                series.Where(s => s.Definition.Owner.Length == 0).Select(s => Row(s.Series, s.Series.Unit!.Name))
            ),
            OfSeries(
                "no-items",
                "Series without items",
                "Nothing is filed under it, or it is not needed.",
                "File what belongs there, or retire it.",
                (await WithoutItemsAsync(series, db, cancel)).Select(s => Row(s, s.Unit!.Name))
            ),
            OfSeries(
                "no-signer",
                "Stages that nobody can sign",
                "What falls due waits for somebody who has left.",
                "Give the role to a person, or change the stages.",
                (await WithoutSignersAsync(series, caller, db, cancel)).Select(s => Row(s.Series, s.Why))
            ),
        ];
    }

    private static HealthLine OfClashes(List<FilingClash> clashes) =>
        new(
            "clashes",
            "Filing rules that overlap",
            clashes.Count,
            clashes.Count == 1 ? "pair of rules" : "pairs of rules",
            "One item would be filed by two rules differently; the higher priority wins.",
            "Narrow one of them.",
            [
                .. clashes
                    .Take(MostRows)
                    .Select(c => new HealthRow(
                        $"{c.Winner} ({c.WinnerSeries}) before {c.Other} ({c.OtherSeries})",
                        Wording.Plural(c.Items, "item"),
                        $"/schedule/filing?rule={c.OtherId}"
                    )),
            ],
            null
        );

    private static HealthLine OfNeverFired(List<TriggerEventTypeView> types)
    {
        var never = types.Where(t => t.Events == 0 && t.Series.Count > 0).ToList();
        return new(
            "never-fired",
            "Events that never happened",
            never.Count,
            never.Count == 1 ? "event type" : "event types",
            "A clock waits for something that nobody reports.",
            "Connect the system that knows, or choose another trigger.",
            [
                .. never
                    .Take(MostRows)
                    .Select(t => new HealthRow(
                        t.Title,
                        $"starts {string.Join(", ", t.Series)}",
                        $"/schedule/events?type={t.Name}"
                    )),
            ],
            null
        );
    }

    private static async Task<IEnumerable<HealthLine>> ToMendAsync(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    ) =>
        from found in await ToMendEndpoints.CountAsync(caller, db, calendar)
        let words = ToMendEndpoints.WordsOf(found.Key)
        let word = found.Key.ToString().ToLowerInvariant()
        let link = $"/schedule/to-mend?kind={word}"
        select new HealthLine(
            $"to-mend-{word}",
            words.Title,
            found.Value,
            Items(found.Value),
            words.Meaning,
            words.Fix,
            [],
            link
        );

    private static HealthLine OfOverRetained(List<InContainer> over) =>
        new(
            "over-retained",
            "Kept by a blanket long after their series let them go",
            over.Sum(o => o.Items),
            Items(over.Sum(o => o.Items)),
            string.Create(
                CultureInfo.InvariantCulture,
                $"Their series' term ended more than {OverYears} years ago; only a blanket keeps them."
            ),
            "Except the container from the blanket, or shorten it.",
            [
                .. over.Take(MostRows)
                    .Select(o => new HealthRow(
                        o.Container,
                        $"{Wording.Plural(o.Items, "item")}, {Bytes(o.Bytes)}",
                        $"/content?container={o.Id}"
                    )),
            ],
            null
        );

    private static async Task<List<HealthLine>> OfItemsAsync(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var today = calendar.Today;
        var longAgo = today.PlusYears(-WaitingYears);
        var waiting = ByContainer(
            db,
            caller.Items(),
            today,
            $"i.KeepUntil = {KeepUntil.AwaitingEvent.Code} AND i.DestroyedAt IS NULL AND i.Created < "
                + $"{longAgo.ToDayNumber()}"
        );
        var unruled = ByContainer(db, caller.Items() with { States = [ItemState.NoRule] }, today, "1");
        var deleted = ByContainer(
            db,
            caller.Items(),
            today,
            "i.MissingSince IS NOT NULL AND i.DestroyedAt IS NULL AND EXISTS (SELECT 1 FROM item_copy k WHERE k.ItemId = i.Id)",
            "(SELECT SUM(k.Bytes) FROM item_copy k WHERE k.ItemId = i.Id)"
        );
        var waitingCql = Uri.EscapeDataString(
            $"state = awaiting-event and created < {LocalDatePattern.Iso.Format(longAgo)}"
        );
        return
        [
            OfContainers(
                "waiting",
                string.Create(CultureInfo.InvariantCulture, $"Waiting for an event for more than {WaitingYears} years"),
                waiting,
                "They are kept without end because nobody reported the event.",
                "Report the event, or mend the date.",
                $"/content?cql={waitingCql}",
                c => $"/content?container={c}&cql={waitingCql}"
            ),
            OfContainers(
                "no-rule",
                "Under no rule",
                unruled,
                "Nothing keeps them and nothing removes them.",
                "File them, or lay a blanket over the container.",
                "/content?state=noRule",
                c => $"/content?state=noRule&container={c}"
            ),
            OfOverRetained(await OverRetainedAsync(caller, db, calendar)),
            OfContainers(
                "kept-deleted",
                "Deleted by users, still in safekeeping",
                deleted,
                "Storage that nobody sees is still filled.",
                "It is freed at disposition; see when that is due.",
                "/content?missing=true",
                c => $"/content?missing=true&container={c}"
            ),
        ];
    }

    private static HealthLine OfSeries(
        string key,
        string title,
        string meaning,
        string fix,
        IEnumerable<HealthRow> rows
    )
    {
        var all = rows.ToList();
        return new(key, title, all.Count, "series", meaning, fix, [.. all.Take(MostRows)], null);
    }

    private static HealthLine OfContainers(
        string key,
        string title,
        List<InContainer> containers,
        string meaning,
        string fix,
        string link,
        Func<long, string> linkOf
    ) =>
        new(
            key,
            title,
            containers.Sum(c => c.Items),
            Items(containers.Sum(c => c.Items)),
            meaning,
            fix,
            [
                .. containers
                    .Take(MostRows)
                    .Select(c => new HealthRow(
                        c.Container,
                        $"{Wording.Plural(c.Items, "item")}, {Bytes(c.Bytes)}, the oldest of "
                            + $"{c.Oldest.Year.ToString(CultureInfo.InvariantCulture)}",
                        linkOf(c.Id)
                    )),
            ],
            link
        );

    private static HealthRow Row(Series series, string note) =>
        new($"{series.Code} {series.Title}", note, $"/schedule/{series.Id.ToString(CultureInfo.InvariantCulture)}");

    private static async Task<List<(Series Series, AuthorityFinding Finding)>> FindingsAsync(
        List<(Series Series, SeriesDefinition Definition)> series,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var demands = (await db.Authorities.AsNoTracking().ToListAsync(cancel)).ToDictionary(
            a => a.Code,
            a => a.Definition.Check(a.Code).Value
        );
        return
        [
            .. from s in series
            let rule = s.Definition.Check(s.Series.Code).Value
            from code in s.Definition.Authorities
            where demands.ContainsKey(code)
            select (s.Series, AuthorityCheck.Of(rule, demands[code])),
        ];
    }

    private static async Task<IEnumerable<Series>> WithoutItemsAsync(
        List<(Series Series, SeriesDefinition)> series,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var used = (
            await db
                .Items.Where(i => i.SeriesId != null && i.DestroyedAt == null)
                .Select(i => i.SeriesId!.Value)
                .Distinct()
                .ToListAsync(cancel)
        ).ToHashSet();
        return series.Select(s => s.Series).Where(s => !used.Contains(s.Id));
    }

    /// <summary>Each stage needs a person of its own: nobody signs twice.</summary>
    private static async Task<List<(Series Series, string Why)>> WithoutSignersAsync(
        List<(Series Series, SeriesDefinition Definition)> series,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var remits = await db
            .Remits.AsNoTracking()
            .Include(r => r.Unit)
            .Where(r => db.Users.Any(p => p.Id == r.PersonId && p.Active))
            .ToListAsync(cancel);
        List<(Series, string)> found = [];
        foreach (
            var (one, definition) in series.Where(s =>
                s.Definition.AtEnd == EndAction.SignOff && !s.Definition.Permanent
            )
        )
        {
            var unit = caller.PathOf(one.UnitId);
            var lacking = definition
                .Stages.GroupBy(s => s.Role)
                .Select(g =>
                    (
                        Role: g.Key,
                        Needed: g.Count(),
                        There: remits
                            .Where(r => r.Role == g.Key && new UnitPath(r.Unit!.Path).Covers(unit))
                            .Select(r => r.PersonId)
                            .Distinct()
                            .Count()
                    )
                )
                .FirstOrDefault(g => g.There < g.Needed);
            if (lacking.Needed > 0)
            {
                found.Add(
                    (
                        one,
                        string.Create(
                            CultureInfo.InvariantCulture,
                            $"{lacking.Needed} of role {RightsPolicy.WordsOf(lacking.Role)} sign, {lacking.There} can"
                        )
                    )
                );
            }
        }

        return found;
    }

    private static List<InContainer> ByContainer(
        WideKeelDb db,
        ItemFilter filter,
        LocalDate today,
        string where,
        string bytes = "i.Bytes"
    )
    {
        db.Database.OpenConnection();
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        command.CommandText =
            $"SELECT c.Id, c.Name, COUNT(*), SUM({bytes}), MIN(i.Created) FROM item i JOIN container c ON c.Id "
            + $"= i.ContainerId WHERE {where} AND {filter.Where()} GROUP BY c.Id ORDER BY 3 DESC";
        filter.Bind(command, today.ToDayNumber());
        using var reader = command.ExecuteReader();
        List<InContainer> found = [];
        while (reader.Read())
        {
            found.Add(
                new(
                    reader.GetInt64(0),
                    reader.GetString(1),
                    reader.GetInt64(2),
                    reader.GetInt64(3),
                    DayNumber.ToDate(reader.GetInt32(4))
                )
            );
        }

        return found;
    }

    private static async Task<List<InContainer>> OverRetainedAsync(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var ruling = await Ruling.LoadAsync(db, calendar.Evaluator);
        var today = calendar.Today;
        if (ruling.Blankets.Count == 0)
        {
            return [];
        }

        var covered = System.Text.Json.JsonSerializer.Serialize(ruling.Blankets.Keys);
        var visible = caller.Items();
        await db.Database.OpenConnectionAsync();
        var limit = KeepUntil.On(today.PlusYears(-OverYears));
        var rows = ItemScan.Facts(
            (SqliteConnection)db.Database.GetDbConnection(),
            ruling.Clocks,
            // What nothing keeps today need not be evaluated.
            "i.SeriesId IS NOT NULL AND i.KeepUntil >= $today AND i.ContainerId IN (SELECT value FROM json_each($covered)) "
                + $"AND {visible.Where()}",
            c =>
            {
                visible.Bind(c, today.ToDayNumber());
                c.Parameters.AddWithValue("$covered", covered);
            }
        );
        Dictionary<long, (long Items, long Bytes)> found = [];
        foreach (var row in rows)
        {
            if (
                ruling.RuleOf(row.SeriesId) is { } rule
                && ruling.Of(row).Keeps(today)
                && ruling.Evaluator.Until(rule, row.Facts) is { Date: not null } own
                && own < limit
            )
            {
                var before = found.GetValueOrDefault(row.ContainerId);
                found[row.ContainerId] = (before.Items + 1, before.Bytes + row.Bytes);
            }
        }

        var names = await db
            .Containers.AsNoTracking()
            .Where(c => found.Keys.Contains(c.Id))
            .ToDictionaryAsync(c => c.Id, c => c.Name);
        return
        [
            .. found
                .OrderByDescending(f => f.Value.Items)
                .Select(f => new InContainer(f.Key, names[f.Key], f.Value.Items, f.Value.Bytes, today)),
        ];
    }

    private static string Items(long count) => count == 1 ? "item" : "items";

    /// <summary>In binary units, with the names that say so.</summary>
    private static string Bytes(long bytes) =>
        bytes switch
        {
            < 1 << 10 => Wording.Plural(bytes, "byte"),
            < 1 << 20 => string.Create(CultureInfo.InvariantCulture, $"{bytes / 1024.0:0.#} KiB"),
            < 1 << 30 => string.Create(CultureInfo.InvariantCulture, $"{bytes / 1048576.0:0.#} MiB"),
            _ => string.Create(CultureInfo.InvariantCulture, $"{bytes / 1073741824.0:0.##} GiB"),
        };

    private sealed record InContainer(long Id, string Container, long Items, long Bytes, LocalDate Oldest);
}
