using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Store.Readiness;

/// <summary>Requirements that an organisation is held against.</summary>
public sealed class FrameworkRow
{
    public long Id { get; init; }

    /// <summary>Lower case with hyphens.</summary>
    public required string Code { get; init; }

    public required string Title { get; set; }

    public string Version { get; set; } = "";

    public string Source { get; set; } = "";

    public Instant AdoptedAt { get; init; }

    /// <summary>What a profile took from which framework, as JSON; empty where it was no profile.</summary>
    public string Imports { get; init; } = "";

    public List<RequirementRow> Requirements { get; init; } = [];
}

public sealed class RequirementRow
{
    public long Id { get; init; }

    public long FrameworkId { get; init; }

    /// <summary>As the framework names it.</summary>
    public required string Code { get; init; }

    public required string Title { get; init; }

    /// <summary>The heading that it stands under.</summary>
    public string Group { get; init; } = "";

    public decimal Weight { get; init; } = 1;
}

/// <summary>What the organisation does to answer requirements.</summary>
public sealed class ControlRow
{
    public long Id { get; init; }

    public required string Code { get; init; }

    public required string Title { get; set; }

    public string Says { get; set; } = "";

    public required string Area { get; set; }

    /// <summary>Mail address, in small letters.</summary>
    public string Owner { get; set; } = "";

    /// <summary>Ids of units with commas between; empty for everywhere.</summary>
    public string Units { get; set; } = "";

    public decimal Weight { get; set; } = 1;

    /// <summary>Hours to mend it.</summary>
    public decimal Effort { get; set; } = 4;

    /// <summary>Why it is not applicable; empty where it is.</summary>
    public string NotApplicable { get; set; } = "";

    public long? AskedById { get; set; }

    public string ApprovedBy { get; set; } = "";

    /// <summary>
    /// From when on it is asked no more; its proofs stay, and so do the rooms that they were offered to. Null while it is in
    /// use: queries see no other unless they ask for it.
    /// </summary>
    public LocalDate? RetiredOn { get; set; }

    public List<ControlMapping> Maps { get; init; } = [];

    public List<ControlPartRow> Parts { get; init; } = [];

    public long Version { get; set; } = 1;
}

public sealed class ControlMapping
{
    public long ControlId { get; init; }

    public long RequirementId { get; init; }
}

/// <summary>What kind of part shows that a control works.</summary>
public enum PartKind
{
    Test,
    Routine,
    Evidence,
}

/// <summary>A test, a routine or a piece of evidence of a control.</summary>
public sealed class ControlPartRow
{
    public long Id { get; init; }

    public long ControlId { get; init; }

    public PartKind Kind { get; init; }

    public required string Title { get; set; }

    public decimal Weight { get; set; } = 1;

    /// <summary>As of a control: its proofs stay.</summary>
    public LocalDate? RetiredOn { get; set; }

    /// <summary>The measure that a test asks.</summary>
    public string Measure { get; set; } = "";

    /// <summary>Percent that must be right for a test to pass.</summary>
    public double Expected { get; set; } = 100;

    /// <summary>For how long a run, or a piece of evidence, speaks; ISO 8601.</summary>
    public string Period { get; set; } = "P30D";

    /// <summary>RFC 5545, for a routine.</summary>
    public string Recurrence { get; set; } = "";

    /// <summary>A routine's first due day.</summary>
    public LocalDate? First { get; set; }

    /// <summary>Who does a routine or brings evidence: a mail address.</summary>
    public string Doer { get; set; } = "";

    public string Deputy { get; set; } = "";

    /// <summary>The roles that see its proofs; empty for everybody who reads readiness.</summary>
    public List<Role> SeenBy { get; set; } = [];

    /// <summary>Evidence counts when somebody else than its giver has reviewed it.</summary>
    public bool NeedsReview { get; set; }

    public List<PartProof> Proofs { get; init; } = [];
}

/// <summary>A file that was given: whether it is still what was given is asked every day.</summary>
public interface IGivenFile
{
    /// <summary>Of what it is, for a sentence.</summary>
    string FileName { get; }

    /// <summary>SHA-256 of the file.</summary>
    string FileHash { get; }

    /// <summary>When it was found missing or changed; null while it is what was given.</summary>
    Instant? BrokenSince { get; set; }
}

/// <summary>A run of a test, a routine that was done, or a piece of evidence that was taken.</summary>
public sealed class PartProof : IGivenFile
{
    public long Id { get; init; }

    public long PartId { get; init; }

    public Instant At { get; init; }

    /// <summary>The day that it speaks for: of the run, the due day, the day on which evidence was taken.</summary>
    public LocalDate Day { get; init; }

    /// <summary>False for a test that failed.</summary>
    public bool Passed { get; init; }

    public required string Says { get; init; }

    public required string By { get; init; }

    /// <summary>Whose account gave it; null for a run.</summary>
    public long? ById { get; init; }

    /// <summary>The first day of the period that evidence covers; null where none was said.</summary>
    public LocalDate? CoversFrom { get; init; }

    public LocalDate? CoversThrough { get; init; }

    /// <summary>When somebody else than its giver reviewed it.</summary>
    public Instant? ReviewedAt { get; set; }

    public string ReviewedBy { get; set; } = "";

    /// <summary>When it was withdrawn: it stays, and counts no more.</summary>
    public Instant? WithdrawnAt { get; set; }

    public string WithdrawnBy { get; set; } = "";

    public string WithdrawnWhy { get; set; } = "";

    public Instant? BrokenSince { get; set; }

    string IGivenFile.FileHash => Hash;

    /// <summary>What a test looked at; read only where it is shown.</summary>
    public ProofFacts? Frozen { get; init; }

    /// <summary>SHA-256 of the facts or the file.</summary>
    public string Hash { get; init; } = "";

    public string FileName { get; init; } = "";

    public long Bytes { get; init; }
}

/// <summary>
/// What a test looked at, as JSON, as it was: apart from its proof, because readiness is computed from thousands of proofs
/// and from no facts.
/// </summary>
public sealed class ProofFacts
{
    public long ProofId { get; init; }

    public required string Text { get; init; }
}

/// <summary>
/// What the readiness of a day was computed from, as JSON: of the last two days, so that a movement has its true causes.
/// </summary>
public sealed class ReadinessGroundRow
{
    public LocalDate Day { get; init; }

    public required string Text { get; set; }
}

/// <summary>How ready a framework was on a day.</summary>
public sealed class ReadinessDay
{
    public long Id { get; init; }

    public long FrameworkId { get; init; }

    public LocalDate Day { get; init; }

    public decimal Readiness { get; set; }

    /// <summary>What moved it, as sentences with line breaks between.</summary>
    public string Moved { get; set; } = "";
}

/// <summary>What the public is shown; there is one.</summary>
public sealed class AssuranceRow
{
    public long Id { get; init; }

    public bool Published { get; set; }

    public string Words { get; set; } = "";

    /// <summary>Codes of frameworks that are shown, with spaces between.</summary>
    public string Frameworks { get; set; } = "";

    public bool ControlsShown { get; set; }

    public bool PoliciesShown { get; set; }

    public long Version { get; set; } = 1;
}

internal sealed class FrameworkTable : IEntityTypeConfiguration<FrameworkRow>
{
    public void Configure(EntityTypeBuilder<FrameworkRow> table)
    {
        table.ToTable("framework").HasIndex(f => f.Code).IsUnique();
        table.HasMany(f => f.Requirements).WithOne().HasForeignKey(r => r.FrameworkId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class RequirementTable : IEntityTypeConfiguration<RequirementRow>
{
    public void Configure(EntityTypeBuilder<RequirementRow> table) =>
        table.ToTable("requirement").HasIndex(r => new { r.FrameworkId, r.Code }).IsUnique();
}

internal sealed class ControlTable : IEntityTypeConfiguration<ControlRow>
{
    public void Configure(EntityTypeBuilder<ControlRow> table)
    {
        table.ToTable("control").HasIndex(c => c.Code).IsUnique();
        table.Property(c => c.Version).IsConcurrencyToken();
        table.HasQueryFilter(c => c.RetiredOn == null);
        table.HasMany(c => c.Maps).WithOne().HasForeignKey(m => m.ControlId).OnDelete(DeleteBehavior.Cascade);
        table.HasMany(c => c.Parts).WithOne().HasForeignKey(p => p.ControlId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class ControlMappingTable : IEntityTypeConfiguration<ControlMapping>
{
    public void Configure(EntityTypeBuilder<ControlMapping> table)
    {
        table.ToTable("control_mapping").HasKey(m => new { m.ControlId, m.RequirementId });
        table.HasOne<RequirementRow>().WithMany().HasForeignKey(m => m.RequirementId);
    }
}

internal sealed class ControlPartTable : IEntityTypeConfiguration<ControlPartRow>
{
    public void Configure(EntityTypeBuilder<ControlPartRow> table)
    {
        table.ToTable("control_part");
        table.PrimitiveCollection(p => p.SeenBy).ElementType().HasConversion<string>();
        table.HasQueryFilter(p => p.RetiredOn == null);
        // What was once shown is never taken out with its part: the database itself refuses.
        table.HasMany(p => p.Proofs).WithOne().HasForeignKey(x => x.PartId).OnDelete(DeleteBehavior.Restrict);
    }
}

internal sealed class PartProofTable : IEntityTypeConfiguration<PartProof>
{
    public void Configure(EntityTypeBuilder<PartProof> table)
    {
        table.ToTable("part_proof").HasIndex(p => new { p.PartId, p.Day });
        table
            .HasOne(p => p.Frozen)
            .WithOne()
            .HasForeignKey<ProofFacts>(f => f.ProofId)
            .OnDelete(DeleteBehavior.Cascade);
        table.HasIndex(p => p.Hash);
    }
}

internal sealed class ProofFactsTable : IEntityTypeConfiguration<ProofFacts>
{
    public void Configure(EntityTypeBuilder<ProofFacts> table) => table.ToTable("proof_facts").HasKey(f => f.ProofId);
}

internal sealed class ReadinessDayTable : IEntityTypeConfiguration<ReadinessDay>
{
    public void Configure(EntityTypeBuilder<ReadinessDay> table)
    {
        table.ToTable("readiness_day").HasIndex(d => new { d.FrameworkId, d.Day }).IsUnique();
        table.HasOne<FrameworkRow>().WithMany().HasForeignKey(d => d.FrameworkId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class ReadinessGroundTable : IEntityTypeConfiguration<ReadinessGroundRow>
{
    public void Configure(EntityTypeBuilder<ReadinessGroundRow> table) =>
        table.ToTable("readiness_ground").HasKey(g => g.Day);
}

internal sealed class AssuranceTable : IEntityTypeConfiguration<AssuranceRow>
{
    public void Configure(EntityTypeBuilder<AssuranceRow> table)
    {
        table.ToTable("assurance").Property(a => a.Version).IsConcurrencyToken();
    }
}
