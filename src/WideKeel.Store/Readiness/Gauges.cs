using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace WideKeel.Store.Readiness;

/// <summary>A measured share with its target.</summary>
public sealed class GaugeRow
{
    public long Id { get; init; }

    public required string Name { get; set; }

    /// <summary>Name of the measure that it shows.</summary>
    public required string Measure { get; init; }

    /// <summary>Percent.</summary>
    public double Target { get; set; }

    /// <summary>Percent; below it, it needs a look.</summary>
    public double Warning { get; set; }

    /// <summary>Percent; below it, it needs an act.</summary>
    public double Alarm { get; set; }

    public List<GaugeExclusion> Exclusions { get; init; } = [];

    public List<GaugeDay> Days { get; init; } = [];

    public long Version { get; set; } = 1;
}

/// <summary>What a measure of one's own asks.</summary>
public enum MeasureOver
{
    /// <summary>A statement, whose rows are what is looked at.</summary>
    Statement,

    /// <summary>How many items a query finds.</summary>
    Items,

    /// <summary>How many events a query finds.</summary>
    Events,
}

/// <summary>A measure that somebody wrote in SQL.</summary>
public sealed class OwnMeasureRow
{
    public long Id { get; init; }

    public required string Title { get; set; }

    /// <summary>What it counts, as a sentence.</summary>
    public string Says { get; set; } = "";

    public required string Area { get; set; }

    public MeasureOver Over { get; set; }

    /// <summary>A statement in SQL, or a query in CQL over items or events.</summary>
    public required string Question { get; set; }

    /// <summary>Of a query: how many it must find at least; null for no bound.</summary>
    public int? Least { get; set; }

    /// <summary>Of a query: how many it may find at most; null for no bound.</summary>
    public int? Most { get; set; }

    /// <summary>Who wrote it last; it sees what they may read.</summary>
    public long PersonId { get; set; }

    public long Version { get; set; } = 1;
}

/// <summary>A subject that a gauge passes over, for a reason and a time.</summary>
public sealed class GaugeExclusion
{
    public long Id { get; init; }

    public long GaugeId { get; init; }

    public required string Subject { get; init; }

    public required string Reason { get; init; }

    /// <summary>The last day; null where it has none.</summary>
    public LocalDate? EndsOn { get; init; }

    public required string By { get; init; }
}

/// <summary>What a gauge showed on a day.</summary>
public sealed class GaugeDay
{
    public long Id { get; init; }

    public long GaugeId { get; init; }

    public LocalDate Day { get; init; }

    public int Right { get; set; }

    public int Of { get; set; }
}

internal sealed class GaugeTable : IEntityTypeConfiguration<GaugeRow>
{
    public void Configure(EntityTypeBuilder<GaugeRow> table)
    {
        table.ToTable("gauge").HasIndex(g => g.Name).IsUnique();
        table.Property(g => g.Version).IsConcurrencyToken();
        table.HasMany(g => g.Exclusions).WithOne().HasForeignKey(e => e.GaugeId).OnDelete(DeleteBehavior.Cascade);
        table.HasMany(g => g.Days).WithOne().HasForeignKey(d => d.GaugeId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class OwnMeasureTable : IEntityTypeConfiguration<OwnMeasureRow>
{
    public void Configure(EntityTypeBuilder<OwnMeasureRow> table)
    {
        table.ToTable("own_measure");
        table.Property(m => m.Version).IsConcurrencyToken();
    }
}

internal sealed class GaugeExclusionTable : IEntityTypeConfiguration<GaugeExclusion>
{
    public void Configure(EntityTypeBuilder<GaugeExclusion> table) => table.ToTable("gauge_exclusion");
}

internal sealed class GaugeDayTable : IEntityTypeConfiguration<GaugeDay>
{
    public void Configure(EntityTypeBuilder<GaugeDay> table) =>
        table.ToTable("gauge_day").HasIndex(d => new { d.GaugeId, d.Day }).IsUnique();
}
