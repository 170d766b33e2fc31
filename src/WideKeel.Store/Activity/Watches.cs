using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.Activity;

namespace WideKeel.Store.Activity;

/// <summary>A watch, with whom it informs and what it does.</summary>
public sealed class WatchRow
{
    public long Id { get; init; }

    public required string Name { get; set; }

    /// <summary>The rule itself, as JSON of a file of watches.</summary>
    public required string Definition { get; set; }

    public required AlertSeverity Severity { get; set; }

    public bool On { get; set; }

    /// <summary>It alerts to what happened from this moment on.</summary>
    public Instant Since { get; set; }

    /// <summary>Mail addresses of those whom it informs, with spaces between.</summary>
    public string Recipients { get; set; } = "";

    /// <summary>The organisation's own words, for the message.</summary>
    public string Words { get; set; } = "";

    /// <summary>At most so many messages a day.</summary>
    public int DailyCap { get; set; } = 5;

    /// <summary>What it does in the directory by itself; null for nothing.</summary>
    public string? Act { get; set; }

    /// <summary>Up to which event (by its row) it has judged.</summary>
    public long JudgedTo { get; set; }

    /// <summary>The whole of what is at hand must be judged anew: it was switched on, or its rule changed.</summary>
    public bool JudgeWhole { get; set; }

    /// <summary>Who made the watch, or last changed what it looks for or does; no second person of its acts.</summary>
    public long PersonId { get; set; }

    public Instant ChangedAt { get; set; }

    public long Version { get; set; } = 1;
}

/// <summary>Where an alert stands.</summary>
public enum AlertState
{
    New,
    LookedAt,
    Expected,
    Confirmed,
}

/// <summary>What a watch raised, and what was done about it.</summary>
public sealed class AlertRow
{
    public long Id { get; init; }

    public long WatchId { get; init; }

    /// <summary>The value by which the watch tells events apart; null where it takes all together.</summary>
    public string? Key { get; init; }

    public Instant At { get; set; }

    /// <summary>Id in its source of the event at which it was raised; null for silence.</summary>
    public string? EventId { get; set; }

    /// <summary>
    /// The channel of the event that it rests on, the last one before a silence; null where there never was one. Who may
    /// not read the channel does not see the alert.
    /// </summary>
    public long? ChannelId { get; set; }

    /// <summary>The unit of the same event.</summary>
    public long? UnitId { get; set; }

    public string? First { get; set; }

    public double? Measure { get; set; }

    public required string Why { get; set; }

    public string? Actor { get; set; }

    public string? Address { get; set; }

    public string? Object { get; set; }

    public AlertSeverity Severity { get; set; }

    /// <summary>0 to 100.</summary>
    public int Risk { get; set; }

    /// <summary>The reasons for its risk, as JSON, as they were.</summary>
    public string Factors { get; set; } = "[]";

    public AlertState State { get; set; }

    public string Reason { get; set; } = "";

    /// <summary>Whether somebody found it useful; null where nobody said.</summary>
    public bool? Useful { get; set; }

    public long? OwnerId { get; set; }

    public Instant RaisedAt { get; init; }

    public Instant? AnsweredAt { get; set; }

    /// <summary>The first alert of its case: what happened around one person, address or object.</summary>
    public long CaseId { get; set; }

    /// <summary>The alert that it repeats.</summary>
    public long? FoldedInto { get; set; }

    /// <summary>A message went out.</summary>
    public bool Informed { get; set; }

    /// <summary>No message went out because the day's number was reached.</summary>
    public bool Capped { get; set; }

    /// <summary>An event that came late took its ground away; it stays in the log.</summary>
    public bool Withdrawn { get; set; }

    public long Version { get; set; } = 1;
}

/// <summary>Something that was done in the directory because of an alert.</summary>
public sealed class AlertAct
{
    public long Id { get; init; }

    public long AlertId { get; init; }

    /// <summary>What was changed, as JSON of a directory's change.</summary>
    public required string Change { get; init; }

    /// <summary>The same as a sentence.</summary>
    public required string Words { get; init; }

    /// <summary>When it was asked for, and once it is done, when that was.</summary>
    public Instant At { get; set; }

    public required string By { get; init; }

    /// <summary>It waits for a second person.</summary>
    public bool Waits { get; set; }

    /// <summary>Who asked for it, or wrote the watch that did.</summary>
    public long? AskedById { get; init; }

    /// <summary>The act that it takes back; null where it takes back none.</summary>
    public long? UndoesId { get; init; }

    /// <summary>The second person, once they have agreed or not.</summary>
    public string? DecidedBy { get; set; }

    /// <summary>The directory was read again and shows the change.</summary>
    public bool Verified { get; set; }

    /// <summary>Why it could not be done; null where it was.</summary>
    public string? Failure { get; set; }

    public Instant? UndoneAt { get; set; }
}

/// <summary>The organisation's weight for a factor of risk.</summary>
public sealed class RiskWeight
{
    public required string Factor { get; init; }

    public double Weight { get; set; }
}

/// <summary>How weighty the organisation holds an action to be, where it differs from what the product begins with.</summary>
public sealed class ActionSeverity
{
    public required string Action { get; init; }

    public AlertSeverity Severity { get; set; }
}

internal sealed class WatchTable : IEntityTypeConfiguration<WatchRow>
{
    public void Configure(EntityTypeBuilder<WatchRow> table)
    {
        table.ToTable("watch").HasIndex(w => w.Name).IsUnique();
        table.Property(w => w.Version).IsConcurrencyToken();
    }
}

internal sealed class AlertTable : IEntityTypeConfiguration<AlertRow>
{
    public void Configure(EntityTypeBuilder<AlertRow> table)
    {
        table.ToTable("alert").Property(a => a.Version).IsConcurrencyToken();
        table.HasIndex(a => new
        {
            a.WatchId,
            a.Key,
            a.At,
        });
        table.HasIndex(a => a.At);
        table.HasIndex(a => a.CaseId);
        table.HasIndex(a => a.FoldedInto);
        table.HasOne<WatchRow>().WithMany().HasForeignKey(a => a.WatchId);
    }
}

internal sealed class AlertActTable : IEntityTypeConfiguration<AlertAct>
{
    public void Configure(EntityTypeBuilder<AlertAct> table)
    {
        table.ToTable("alert_act");
        table.HasOne<AlertRow>().WithMany().HasForeignKey(a => a.AlertId);
    }
}

internal sealed class RiskWeightTable : IEntityTypeConfiguration<RiskWeight>
{
    public void Configure(EntityTypeBuilder<RiskWeight> table) => table.ToTable("risk_weight").HasKey(w => w.Factor);
}

internal sealed class ActionSeverityTable : IEntityTypeConfiguration<ActionSeverity>
{
    public void Configure(EntityTypeBuilder<ActionSeverity> table) =>
        table.ToTable("action_severity").HasKey(a => a.Action);
}
