using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.Retention;

namespace WideKeel.Store.Retention;

/// <summary>The series under which new items of a place are filed.</summary>
public sealed class FilingDefault
{
    public long Id { get; init; }

    public long ContainerId { get; init; }

    /// <summary>
    /// Path beneath the container, with forward slashes and none at the end; empty for the container as a whole.
    /// </summary>
    public required string Folder { get; init; }

    public long SeriesId { get; set; }

    public Series? Series { get; init; }

    /// <summary>The person's id who set it.</summary>
    public long? SetById { get; set; }

    public long Revision { get; set; } = 1;
}

public enum FilingRuleState
{
    /// <summary>It shows what it would file and files nothing.</summary>
    Trial,

    /// <summary>It files what arrives.</summary>
    Active,

    /// <summary>It does nothing; what it filed stays filed.</summary>
    Stopped,
}

/// <summary>Conditions that file items by themselves.</summary>
public sealed class FilingRule
{
    public long Id { get; init; }

    public required string Name { get; set; }

    public long SeriesId { get; set; }

    public Series? Series { get; init; }

    public required FilingRuleDefinition Definition { get; set; }

    /// <summary>Of two rules that would file one item differently, the higher wins; of equals, the older.</summary>
    public int Priority { get; set; }

    public FilingRuleState State { get; set; }

    /// <summary>The person's id who put it into effect; null while it is on trial.</summary>
    public long? EffectById { get; set; }

    public required string By { get; set; }

    public Instant At { get; set; }

    public long Revision { get; set; } = 1;
}

/// <summary>A person's word on whether a rule would file an item rightly.</summary>
public sealed class FilingMark
{
    public long RuleId { get; init; }

    public long ItemId { get; init; }

    public bool Right { get; set; }

    public required string By { get; set; }

    public Instant At { get; set; }
}

/// <summary>The series that was learnt to suit an item which nobody has filed yet.</summary>
public sealed class FilingSuggestion
{
    public long ItemId { get; init; }

    public long SeriesId { get; init; }

    /// <summary>0 to 1.</summary>
    public double Confidence { get; init; }

    /// <summary>Words of the item that speak for it, the strongest first, with a space between them.</summary>
    public required string Words { get; init; }
}

/// <summary>What the last learning from filing by hand came to; there is one.</summary>
public sealed class FilingLesson
{
    public long Id { get; init; }

    public Instant At { get; set; }

    public int Examples { get; set; }

    /// <summary>By cross-validation.</summary>
    public required IReadOnlyList<SeriesMeasure> Measures { get; set; }
}

public enum ProposalState
{
    Waiting,
    Approved,
    Declined,

    /// <summary>What it was about is gone, or was changed by another way: nobody can agree to it any more.</summary>
    Closed,
}

/// <summary>Something that one person asks for and another must agree to before it is done.</summary>
public sealed class Proposal
{
    public long Id { get; init; }

    /// <summary>The name of the act.</summary>
    public required string Kind { get; init; }

    /// <summary>What would be done, in a sentence.</summary>
    public required string Title { get; init; }

    /// <summary>The act as JSON, to be done as it was asked for.</summary>
    public required string Act { get; init; }

    /// <summary>The revisions of all that the act read when it was asked for, by name (JSON).</summary>
    public required string RestsOn { get; init; }

    /// <summary>What the person who asked was shown of the consequences (JSON).</summary>
    public required string Consequences { get; init; }

    /// <summary>SHA-256 of the consequences.</summary>
    public required string Digest { get; init; }

    /// <summary>Path of the unit that it concerns.</summary>
    public required string Unit { get; init; }

    public long AskedById { get; init; }

    public required string AskedBy { get; init; }

    public Instant AskedAt { get; init; }

    public required string Why { get; init; }

    public ProposalState State { get; set; }

    public string? DecidedBy { get; set; }

    public Instant? DecidedAt { get; set; }

    public string? DecidedWhy { get; set; }

    public long Revision { get; set; } = 1;
}

internal sealed class FilingDefaultTable : IEntityTypeConfiguration<FilingDefault>
{
    public void Configure(EntityTypeBuilder<FilingDefault> table)
    {
        table.ToTable("filing_default").HasIndex(d => new { d.ContainerId, d.Folder }).IsUnique();
        table.HasOne<Content.Container>().WithMany().HasForeignKey(d => d.ContainerId);
        table.HasOne(d => d.Series).WithMany().HasForeignKey(d => d.SeriesId);
        table.Property(d => d.Revision).IsConcurrencyToken();
    }
}

internal sealed class FilingRuleTable : IEntityTypeConfiguration<FilingRule>
{
    public void Configure(EntityTypeBuilder<FilingRule> table)
    {
        table.ToTable("filing_rule").HasIndex(r => r.Name).IsUnique();
        table.HasOne(r => r.Series).WithMany().HasForeignKey(r => r.SeriesId);
        table.Property(r => r.Definition).IsJson();
        table.Property(r => r.Revision).IsConcurrencyToken();
    }
}

internal sealed class FilingMarkTable : IEntityTypeConfiguration<FilingMark>
{
    public void Configure(EntityTypeBuilder<FilingMark> table)
    {
        table.ToTable("filing_mark").HasKey(m => new { m.RuleId, m.ItemId });
        table.HasOne<FilingRule>().WithMany().HasForeignKey(m => m.RuleId);
        table.HasOne<Content.Item>().WithMany().HasForeignKey(m => m.ItemId);
    }
}

internal sealed class FilingSuggestionTable : IEntityTypeConfiguration<FilingSuggestion>
{
    public void Configure(EntityTypeBuilder<FilingSuggestion> table)
    {
        table.ToTable("filing_suggestion").HasKey(s => s.ItemId);
        table.HasIndex(s => s.SeriesId);
        table.HasOne<Content.Item>().WithMany().HasForeignKey(s => s.ItemId);
        table.HasOne<Series>().WithMany().HasForeignKey(s => s.SeriesId);
    }
}

internal sealed class FilingLessonTable : IEntityTypeConfiguration<FilingLesson>
{
    public void Configure(EntityTypeBuilder<FilingLesson> table)
    {
        table.ToTable("filing_lesson");
        table.Property(l => l.Measures).IsJson();
    }
}

internal sealed class ProposalTable : IEntityTypeConfiguration<Proposal>
{
    public void Configure(EntityTypeBuilder<Proposal> table)
    {
        table.ToTable("proposal").HasIndex(p => p.State);
        table.Property(p => p.Revision).IsConcurrencyToken();
    }
}
