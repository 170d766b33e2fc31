using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace WideKeel.Store.Readiness;

/// <summary>An audit, and the room that is shared with its auditor.</summary>
public sealed class AuditRow
{
    public long Id { get; init; }

    public required string Name { get; set; }

    public long FrameworkId { get; init; }

    /// <summary>Mail address of the auditor's account.</summary>
    public string Auditor { get; set; } = "";

    public LocalDate PeriodFrom { get; set; }

    public LocalDate PeriodThrough { get; set; }

    public LocalDate StartsOn { get; set; }

    public LocalDate EndsOn { get; set; }

    public Instant? ClosedAt { get; set; }

    public List<AuditRequest> Requests { get; init; } = [];

    public List<AuditSampleRow> Samples { get; init; } = [];

    public List<AuditFinding> Findings { get; init; } = [];

    public List<AuditPopulation> Populations { get; init; } = [];

    public long Version { get; set; } = 1;
}

public enum RequestState
{
    Open,
    Ready,
    Accepted,
    Returned,
}

/// <summary>Something that the auditor asked to see.</summary>
public sealed class AuditRequest
{
    public long Id { get; init; }

    public long AuditId { get; init; }

    public int Number { get; init; }

    public required string What { get; set; }

    public long? RequirementId { get; init; }

    /// <summary>Mail address, in small letters.</summary>
    public string Owner { get; set; } = "";

    public LocalDate Due { get; set; }

    public RequestState State { get; set; }

    public List<AuditOffer> Offers { get; init; } = [];

    public List<AuditRemark> Remarks { get; init; } = [];
}

/// <summary>
/// A proof that was offered for a request: a copy of it with its facts, which nothing outside the room changes.
/// </summary>
public sealed class AuditOffer
{
    public long Id { get; init; }

    public long RequestId { get; init; }

    /// <summary>The proof that it is a copy of.</summary>
    public long ProofId { get; init; }

    /// <summary>Canonical JSON (RFC 8785) of the control, the part, the proof and its facts, as they were.</summary>
    public required string Frozen { get; init; }

    /// <summary>SHA-256 of that.</summary>
    public required string Hash { get; init; }

    public Instant OfferedAt { get; init; }

    public required string OfferedBy { get; init; }

    /// <summary>Taken back, with a reason that stands among the remarks; null while it is offered.</summary>
    public Instant? WithdrawnAt { get; set; }
}

public sealed class AuditRemark
{
    public long Id { get; init; }

    public long RequestId { get; init; }

    public Instant At { get; init; }

    public required string By { get; init; }

    public required string Text { get; init; }
}

/// <summary>A population that the organisation opened to an audit, frozen: only from such ones an auditor samples.</summary>
public sealed class AuditPopulation
{
    public long Id { get; init; }

    public long AuditId { get; init; }

    public required string Title { get; init; }

    /// <summary>JSON array of lines, each a stratum, a | and a name, as they were.</summary>
    public required string Lines { get; init; }

    /// <summary>SHA-256 of the lines.</summary>
    public required string Hash { get; init; }

    public int Size { get; init; }

    public Instant OpenedAt { get; init; }

    public required string OpenedBy { get; init; }
}

/// <summary>A sample that was drawn, with its frozen population.</summary>
public sealed class AuditSampleRow
{
    public long Id { get; init; }

    public long AuditId { get; init; }

    public required string Title { get; init; }

    /// <summary>Name of who drew it, and sets its results.</summary>
    public string DrawnBy { get; init; } = "";

    public long DrawnById { get; init; }

    /// <summary>JSON array of subjects, as they were.</summary>
    public required string Population { get; init; }

    /// <summary>SHA-256 of the population.</summary>
    public required string Hash { get; init; }

    public int Seed { get; init; }

    public required string Method { get; init; }

    public double Confidence { get; init; }

    public double Tolerable { get; init; }

    public double Expected { get; init; }

    /// <summary>Planned for this population alone (hypergeometric); else for what it stands for (binomial).</summary>
    public bool Finite { get; init; }

    /// <summary>Places in the population, JSON array.</summary>
    public required string Picks { get; init; }

    /// <summary>Deviations found; null until the results are in.</summary>
    public int? Found { get; set; }

    public double? UpperLimit { get; set; }

    /// <summary>Of each subject drawn whether it deviates, with a note, as JSON; empty until the results are in.</summary>
    public string Results { get; set; } = "";

    /// <summary>Of each stratum how many there are and how many were drawn, as JSON; empty where it was not stratified.</summary>
    public string Strata { get; init; } = "";
}

/// <summary>
/// What an auditor found. Title, severity and control are the auditor's; response, action, owner and date are the
/// organisation's; the auditor verifies.
/// </summary>
public sealed class AuditFinding
{
    public long Id { get; init; }

    public long AuditId { get; init; }

    public required string Title { get; set; }

    public required string Severity { get; set; }

    public string Control { get; set; } = "";

    /// <summary>Name of who found it.</summary>
    public string FoundBy { get; init; } = "";

    public long FoundById { get; init; }

    /// <summary>What the organisation says to it.</summary>
    public string Response { get; set; } = "";

    public string Action { get; set; } = "";

    /// <summary>Mail address, in small letters.</summary>
    public string Owner { get; set; } = "";

    public LocalDate? Due { get; set; }

    /// <summary>The day on which the organisation said that it is done.</summary>
    public LocalDate? DoneOn { get; set; }

    public long? DoneById { get; set; }

    /// <summary>When it was verified and closed.</summary>
    public Instant? VerifiedAt { get; set; }

    public string VerifiedBy { get; set; } = "";

    public List<AuditFindingChange> Changes { get; init; } = [];
}

/// <summary>A change of one word of a finding.</summary>
public sealed class AuditFindingChange
{
    public long Id { get; init; }

    public long FindingId { get; init; }

    public Instant At { get; init; }

    public required string By { get; init; }

    /// <summary>What was changed: title, severity, control, response, action, owner, due, done, verified or returned.</summary>
    public required string Field { get; init; }

    public required string Before { get; init; }

    public required string After { get; init; }
}

internal sealed class AuditTable : IEntityTypeConfiguration<AuditRow>
{
    public void Configure(EntityTypeBuilder<AuditRow> table)
    {
        table.ToTable("audit").Property(a => a.Version).IsConcurrencyToken();
        table.HasOne<FrameworkRow>().WithMany().HasForeignKey(a => a.FrameworkId).OnDelete(DeleteBehavior.Restrict);
        table.HasMany(a => a.Requests).WithOne().HasForeignKey(r => r.AuditId);
        table.HasMany(a => a.Samples).WithOne().HasForeignKey(s => s.AuditId);
        table.HasMany(a => a.Findings).WithOne().HasForeignKey(f => f.AuditId);
    }
}

internal sealed class AuditRequestTable : IEntityTypeConfiguration<AuditRequest>
{
    public void Configure(EntityTypeBuilder<AuditRequest> table)
    {
        table.ToTable("audit_request").HasIndex(r => new { r.AuditId, r.Number }).IsUnique();
        table.HasMany(r => r.Remarks).WithOne().HasForeignKey(m => m.RequestId);
    }
}

internal sealed class AuditRemarkTable : IEntityTypeConfiguration<AuditRemark>
{
    public void Configure(EntityTypeBuilder<AuditRemark> table) => table.ToTable("audit_remark");
}

internal sealed class AuditSampleTable : IEntityTypeConfiguration<AuditSampleRow>
{
    public void Configure(EntityTypeBuilder<AuditSampleRow> table) => table.ToTable("audit_sample");
}

internal sealed class AuditFindingTable : IEntityTypeConfiguration<AuditFinding>
{
    public void Configure(EntityTypeBuilder<AuditFinding> table) => table.ToTable("audit_finding");
}

internal sealed class AuditOfferTable : IEntityTypeConfiguration<AuditOffer>
{
    public void Configure(EntityTypeBuilder<AuditOffer> table) =>
        table.ToTable("audit_offer").HasOne<AuditRequest>().WithMany(r => r.Offers).HasForeignKey(o => o.RequestId);
}

internal sealed class AuditPopulationTable : IEntityTypeConfiguration<AuditPopulation>
{
    public void Configure(EntityTypeBuilder<AuditPopulation> table) =>
        table.ToTable("audit_population").HasOne<AuditRow>().WithMany(a => a.Populations).HasForeignKey(p => p.AuditId);
}

internal sealed class AuditFindingChangeTable : IEntityTypeConfiguration<AuditFindingChange>
{
    public void Configure(EntityTypeBuilder<AuditFindingChange> table) =>
        table
            .ToTable("audit_finding_change")
            .HasOne<AuditFinding>()
            .WithMany(f => f.Changes)
            .HasForeignKey(c => c.FindingId);
}
