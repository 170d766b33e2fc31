using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.Retention;

namespace WideKeel.Store.Retention;

public enum SeriesState
{
    /// <summary>No version has been in force yet; items can be filed, nothing keeps them.</summary>
    Draft,
    Active,

    /// <summary>Nothing new is filed under it; what is filed stays under its last version until disposed of.</summary>
    Retired,
}

/// <summary>A record series: its code, its place, the definition in force and the draft being written.</summary>
public sealed class Series
{
    public long Id { get; init; }

    public required string Code { get; init; }

    public long UnitId { get; set; }

    public People.Unit? Unit { get; init; }

    public SeriesState State { get; set; }

    /// <summary>The title of the definition in force, or of the draft before there is one.</summary>
    public required string Title { get; set; }

    /// <summary>Number of the version in force; 0 before the first.</summary>
    public int VersionInForce { get; set; }

    public SeriesDefinition? InForce { get; set; }

    public SeriesDefinition? Draft { get; set; }

    public string? DraftBy { get; set; }

    public Instant? DraftAt { get; set; }

    /// <summary>
    /// The person's id who put the rule in force into effect, or asked a second person to; a version that changes no more
    /// than words leaves it. What it destroys without sign-off is cleared by somebody else.
    /// </summary>
    public long? EffectById { get; set; }

    /// <summary>The second person's, who agreed to it; null where none was needed.</summary>
    public long? EffectWithId { get; set; }

    /// <summary>Rises with every write; the ETag.</summary>
    public long Revision { get; set; } = 1;
}

/// <summary>A version that was put into effect.</summary>
public sealed class SeriesVersion
{
    public long Id { get; init; }

    public long SeriesId { get; init; }

    public int Number { get; init; }

    public required SeriesDefinition Definition { get; init; }

    public required string By { get; init; }

    public Instant At { get; init; }

    public required string Why { get; init; }
}

public enum BlanketState
{
    Draft,
    Active,

    /// <summary>It rules no longer.</summary>
    Retired,
}

/// <summary>A rule laid over whole containers, beneath the series.</summary>
public sealed class Blanket
{
    public long Id { get; init; }

    public required string Name { get; init; }

    /// <summary>It covers containers of this unit and beneath, whatever its reach says.</summary>
    public long UnitId { get; set; }

    public People.Unit? Unit { get; init; }

    public BlanketState State { get; set; }

    public int VersionInForce { get; set; }

    public BlanketDefinition? InForce { get; set; }

    public BlanketDefinition? Draft { get; set; }

    public string? DraftBy { get; set; }

    public Instant? DraftAt { get; set; }

    /// <summary>
    /// The person's id who put the rule in force into effect, or asked a second person to; a version that changes no more
    /// than words leaves it. What it destroys without sign-off is cleared by somebody else.
    /// </summary>
    public long? EffectById { get; set; }

    /// <summary>The second person's, who agreed to it; null where none was needed.</summary>
    public long? EffectWithId { get; set; }

    public long Revision { get; set; } = 1;
}

/// <summary>What a series rests on.</summary>
public sealed class Authority
{
    public long Id { get; init; }

    public required string Code { get; init; }

    public required AuthorityDefinition Definition { get; set; }

    public long Revision { get; set; } = 1;
}

/// <summary>A kind of outside fact that starts clocks: <c>vessel-sold</c>.</summary>
public sealed class TriggerEventType
{
    public long Id { get; init; }

    /// <summary>As rules name it.</summary>
    public required string Name { get; init; }

    public required string Title { get; set; }

    public required string Description { get; set; }

    public long Revision { get; set; } = 1;
}

/// <summary>One outside fact about one subject. Never changed; a mistake is revoked and told anew.</summary>
public sealed class TriggerEvent
{
    public long Id { get; init; }

    public long TypeId { get; init; }

    public TriggerEventType? Type { get; init; }

    /// <summary>What the outside system calls it: an IMO number, a personnel number.</summary>
    public required string Subject { get; init; }

    public LocalDate Date { get; init; }

    public required string Note { get; init; }

    /// <summary>The outside system's own number of it; told again, it is the same event.</summary>
    public string? Reference { get; init; }

    public required string ToldBy { get; init; }

    public Instant ToldAt { get; init; }

    public string? RevokedBy { get; set; }

    public Instant? RevokedAt { get; set; }

    public string? RevokedWhy { get; set; }
}

internal sealed class SeriesTable : IEntityTypeConfiguration<Series>
{
    public void Configure(EntityTypeBuilder<Series> table)
    {
        table.ToTable("series").HasIndex(s => s.Code).IsUnique();
        table.HasOne(s => s.Unit).WithMany().HasForeignKey(s => s.UnitId);
        table.Property(s => s.Revision).IsConcurrencyToken();
        table.Property(s => s.InForce).IsJson();
        table.Property(s => s.Draft).IsJson();
    }
}

internal sealed class SeriesVersionTable : IEntityTypeConfiguration<SeriesVersion>
{
    public void Configure(EntityTypeBuilder<SeriesVersion> table)
    {
        table.ToTable("series_version").HasIndex(v => new { v.SeriesId, v.Number }).IsUnique();
        table.HasOne<Series>().WithMany().HasForeignKey(v => v.SeriesId);
        table.Property(v => v.Definition).IsJson();
    }
}

internal sealed class BlanketTable : IEntityTypeConfiguration<Blanket>
{
    public void Configure(EntityTypeBuilder<Blanket> table)
    {
        table.ToTable("blanket").HasIndex(b => b.Name).IsUnique();
        table.HasOne(b => b.Unit).WithMany().HasForeignKey(b => b.UnitId);
        table.Property(b => b.Revision).IsConcurrencyToken();
        table.Property(b => b.InForce).IsJson();
        table.Property(b => b.Draft).IsJson();
    }
}

internal sealed class AuthorityTable : IEntityTypeConfiguration<Authority>
{
    public void Configure(EntityTypeBuilder<Authority> table)
    {
        table.ToTable("authority").HasIndex(a => a.Code).IsUnique();
        table.Property(a => a.Revision).IsConcurrencyToken();
        table.Property(a => a.Definition).IsJson();
    }
}

internal sealed class TriggerEventTypeTable : IEntityTypeConfiguration<TriggerEventType>
{
    public void Configure(EntityTypeBuilder<TriggerEventType> table)
    {
        table.ToTable("trigger_event_type").HasIndex(t => t.Name).IsUnique();
        table.Property(t => t.Revision).IsConcurrencyToken();
    }
}

internal sealed class TriggerEventTable : IEntityTypeConfiguration<TriggerEvent>
{
    public void Configure(EntityTypeBuilder<TriggerEvent> table)
    {
        table.ToTable("trigger_event").HasOne(e => e.Type).WithMany().HasForeignKey(e => e.TypeId);
        table.HasIndex(e => new { e.Subject, e.TypeId });
        table.HasIndex(e => e.Reference).IsUnique();
    }
}

/// <summary>What an item is filed under.</summary>
internal sealed class ItemSeriesTable : IEntityTypeConfiguration<Content.Item>
{
    public void Configure(EntityTypeBuilder<Content.Item> table) =>
        table.HasOne<Series>().WithMany().HasForeignKey(i => i.SeriesId);
}
