using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Readiness;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>What the programs outside say of machines, training and tickets.</summary>
internal sealed class ConnectionMeasures : IMeasureSource
{
    /// <summary>A machine without new patches for longer is not kept up.</summary>
    private const int PatchDays = 30;

    /// <summary>A connection that was not read for longer says nothing of today.</summary>
    private static readonly Duration Silence = Duration.FromDays(2);

    public IReadOnlyList<Measure> Measures { get; } =
    [
        Of(
            "hosts-patched",
            "Machines patched",
            $"Machines that were patched within {PatchDays} days.",
            "operations",
            ConnectionKind.Hosts,
            "",
            (r, today) => DayOf(r, "patched") >= today.PlusDays(-PatchDays),
            r => DayOf(r, "patched") is { } day ? $"Patched on {Wording.Day(day)}." : "Was never patched."
        ),
        Of(
            "hosts-encrypted",
            "Machines encrypted",
            "Machines whose disks are encrypted.",
            "operations",
            ConnectionKind.Hosts,
            "",
            (r, _) => FlagOf(r, "encrypted"),
            r => FlagOf(r, "encrypted") ? "Its disk is encrypted." : "Its disk is not encrypted."
        ),
        Of(
            "hosts-supported",
            "Machines with support",
            "Machines whose system still gets patches from its maker.",
            "operations",
            ConnectionKind.Hosts,
            "",
            (r, today) => DayOf(r, "supportEnds") is { } end && end >= today,
            r =>
                DayOf(r, "supportEnds") is { } day
                    ? $"Support ends on {Wording.Day(day)}."
                    : "Nobody knows its support."
        ),
        Of(
            "training-done",
            "Training done",
            "Courses that people have done, or still have time for.",
            "training",
            ConnectionKind.Training,
            "",
            (r, today) => r.Done is not null || ConnectionRecords.InTime(r.Due, null, today),
            DoneOrDue
        ),
        Of(
            "changes-decided",
            "Changes decided before they are made",
            "Changes that somebody approved before they were done.",
            "change",
            ConnectionKind.Tickets,
            "change",
            (r, _) => r.Done is null || DayOf(r, "approved") <= r.Done,
            r =>
                DayOf(r, "approved") is { } day ? $"Approved on {Wording.Day(day)}."
                : r.Done is null ? "Not done yet."
                : $"Done on {Wording.Day(r.Done.Value)} without approval."
        ),
        Of(
            "incidents-in-time",
            "Incidents ended in time",
            "Incidents that were ended by their day, or still have time.",
            "operations",
            ConnectionKind.Tickets,
            "incident",
            (r, today) => ConnectionRecords.InTime(r.Due, r.Done, today),
            DoneOrDue
        ),
        new(
            "connections-heard",
            "Connections heard",
            "Connections that answered within two days.",
            "operations",
            async asked =>
            {
                var now = asked.Services.GetRequiredService<IClock>().GetCurrentInstant();
                return
                [
                    .. (
                        await asked.Db.Connections.AsNoTracking().OrderBy(c => c.Name).ToListAsync(asked.Cancel)
                    ).Select(c => new MeasuredSubject(
                        Wording.Id(c.Id),
                        c.Name,
                        "",
                        c.Failure.Length == 0 && c.LastAt > now - Silence,
                        c.Failure.Length > 0 ? c.Failure
                            : c.LastAt is null ? "Was never read."
                            : "It answers.",
                        $"/readiness/connections?connection={Wording.Id(c.Id)}"
                    )),
                ];
            }
        ),
    ];

    private static string DoneOrDue(ConnectionRecord r) =>
        r.Done is { } done ? $"Done on {Wording.Day(done)}."
        : r.Due is { } due ? $"Due on {Wording.Day(due)}."
        : "Not done.";

    /// <param name="sort">Of the records that count; empty for all.</param>
    private static Measure Of(
        string name,
        string title,
        string says,
        string area,
        ConnectionKind kind,
        string sort,
        Func<ConnectionRecord, LocalDate, bool> right,
        Func<ConnectionRecord, string> why
    ) =>
        new(
            name,
            title,
            says,
            area,
            async asked =>
                [
                    .. (
                        await asked
                            .Db.Connections.Where(c => c.Kind == kind)
                            .SelectMany(c => c.Records.Where(r => sort == "" || r.Sort == sort))
                            .AsNoTracking()
                            .OrderBy(r => r.ConnectionId)
                            .ThenBy(r => r.Key)
                            .ToListAsync(asked.Cancel)
                    ).Select(r => new MeasuredSubject(
                        $"{Wording.Id(r.ConnectionId)} {r.Key}",
                        r.Person.Length > 0 ? $"{r.Title}: {r.Person}" : r.Title,
                        "",
                        right(r, asked.Calendar.Today),
                        why(r),
                        $"/readiness/connections?connection={Wording.Id(r.ConnectionId)}"
                    )),
                ]
        );

    internal static LocalDate? DayOf(ConnectionRecord record, string fact) =>
        Fact(record, fact) is { ValueKind: JsonValueKind.String } value
        && LocalDatePattern.Iso.Parse(value.GetString()!) is { Success: true, Value: var day }
            ? day
            : null;

    private static bool FlagOf(ConnectionRecord record, string fact) =>
        Fact(record, fact) is { ValueKind: JsonValueKind.True };

    private static JsonElement? Fact(ConnectionRecord record, string name)
    {
        using var facts = JsonDocument.Parse(record.Facts);
        return facts.RootElement.TryGetProperty(name, out var value) ? value.Clone() : null;
    }
}
