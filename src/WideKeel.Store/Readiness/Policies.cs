using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace WideKeel.Store.Readiness;

/// <summary>A policy of the organisation, with its versions and with everybody who was asked to acknowledge it.</summary>
public sealed class PolicyRow
{
    public long Id { get; init; }

    /// <summary>Short and lasting, such as POL-RECORDS.</summary>
    public required string Code { get; init; }

    public required string Title { get; set; }

    public string Says { get; set; } = "";

    /// <summary>Mail address of who answers for it.</summary>
    public string Owner { get; set; } = "";

    /// <summary>Units whose people it binds; with <see cref="Groups"/> empty too, everybody.</summary>
    public List<string> Units { get; set; } = [];

    /// <summary>Groups of the directory whose people it binds.</summary>
    public List<string> Groups { get; set; } = [];

    /// <summary>Days in which somebody who is asked is to acknowledge, from 1.</summary>
    public int Days { get; set; } = 14;

    /// <summary>Whoever comes into its scope is asked by the daily run.</summary>
    public bool AsksItself { get; set; }

    public LocalDate? ReviewOn { get; set; }

    /// <summary>It binds nobody after this day.</summary>
    public LocalDate? EndedOn { get; set; }

    public List<PolicyVersionRow> Versions { get; init; } = [];

    public List<PolicyCopy> Copies { get; init; } = [];

    public long Version { get; set; } = 1;
}

/// <summary>One text of a policy; it never changes after its approval.</summary>
public sealed class PolicyVersionRow : IGivenFile
{
    public long Id { get; init; }

    public long PolicyId { get; init; }

    /// <summary>From 1.</summary>
    public int Number { get; init; }

    /// <summary>What is different from the version before.</summary>
    public string Change { get; set; } = "";

    public string Text { get; set; } = "";

    public string FileName { get; set; } = "";

    /// <summary>SHA-256 of the text and of the file's own hash, hexadecimal.</summary>
    public string Hash { get; set; } = "";

    /// <summary>SHA-256 of the file, hexadecimal; its place in the folder of files.</summary>
    public string FileHash { get; set; } = "";

    public Instant? BrokenSince { get; set; }

    public Instant MadeAt { get; init; }

    public long MadeById { get; set; }

    public required string MadeBy { get; set; }

    public string ApprovedBy { get; set; } = "";

    public Instant? ApprovedAt { get; set; }

    public LocalDate InForceFrom { get; set; }

    /// <summary>Those who acknowledged an earlier version are to acknowledge this one too.</summary>
    public bool AsksAnew { get; set; } = true;
}

/// <summary>One person who was asked to acknowledge one version.</summary>
public sealed class PolicyCopy
{
    public long Id { get; init; }

    public long PolicyId { get; init; }

    /// <summary>Number of the version.</summary>
    public int Number { get; init; }

    public required string Mail { get; init; }

    public required string Name { get; init; }

    public LocalDate AskedOn { get; init; }

    public LocalDate? RemindedOn { get; set; }

    public int Reminders { get; set; }

    public Instant? OpenedAt { get; set; }

    public Instant? AcknowledgedAt { get; set; }
}

/// <summary>Where facts of the trade come from over signed HTTP.</summary>
public enum ConnectionKind
{
    /// <summary>Machines, and how they are kept.</summary>
    Hosts,

    /// <summary>Courses that people have done, or are to do.</summary>
    Training,

    /// <summary>Changes and incidents as tickets.</summary>
    Tickets,
}

/// <summary>A program outside that answers with its records.</summary>
public sealed class ConnectionRow
{
    public long Id { get; init; }

    public ConnectionKind Kind { get; init; }

    public required string Name { get; set; }

    public required string Address { get; set; }

    /// <summary>Key of the signature, HMAC-SHA256.</summary>
    public required string Secret { get; set; }

    /// <summary>When its records were last taken in.</summary>
    public Instant? LastAt { get; set; }

    /// <summary>SHA-256 of its last answer, hexadecimal.</summary>
    public string Hash { get; set; } = "";

    /// <summary>Why the last try failed; empty where it did not.</summary>
    public string Failure { get; set; } = "";

    public List<ConnectionRecord> Records { get; init; } = [];

    public long Version { get; set; } = 1;
}

/// <summary>One record of a connection, as it was last sent.</summary>
public sealed class ConnectionRecord
{
    public long Id { get; init; }

    public long ConnectionId { get; init; }

    /// <summary>Its name at the program, once for each connection.</summary>
    public required string Key { get; init; }

    public required string Title { get; init; }

    /// <summary>Mail address of whom it is about, or who answers for it.</summary>
    public string Person { get; init; } = "";

    /// <summary>Course, kind of ticket, or kind of machine.</summary>
    public string Sort { get; init; } = "";

    public string State { get; init; } = "";

    public LocalDate? Opened { get; init; }

    public LocalDate? Due { get; init; }

    public LocalDate? Done { get; init; }

    /// <summary>All that was sent, as JSON.</summary>
    public string Facts { get; init; } = "";
}

/// <summary>Requirements of two frameworks that ask for the same, by their codes: either may not be adopted yet.</summary>
public sealed class CrosswalkRow
{
    public long Id { get; init; }

    public required string From { get; init; }

    public required string FromCode { get; init; }

    public required string To { get; init; }

    public required string ToCode { get; init; }
}

/// <summary>A document that outsiders may ask for at the assurance page.</summary>
public sealed class AssuranceDocument : IGivenFile
{
    public long Id { get; init; }

    public required string Title { get; init; }

    public string Says { get; init; } = "";

    public required string FileName { get; init; }

    public required string Hash { get; init; }

    public long Bytes { get; init; }

    public Instant? BrokenSince { get; set; }

    string IGivenFile.FileHash => Hash;

    public Instant GivenAt { get; init; }

    public Instant? WithdrawnAt { get; set; }
}

/// <summary>Somebody outside who asks for a document, and what was decided.</summary>
public sealed class DocumentAsk
{
    public long Id { get; init; }

    public long DocumentId { get; init; }

    public required string Name { get; init; }

    public required string Organisation { get; init; }

    public required string Mail { get; init; }

    public required string Reason { get; init; }

    public Instant AskedAt { get; init; }

    public string DecidedBy { get; set; } = "";

    public Instant? DecidedAt { get; set; }

    public bool Given { get; set; }

    /// <summary>The last day on which the link opens.</summary>
    public LocalDate? EndsOn { get; set; }

    public int Opened { get; set; }

    public long Version { get; set; } = 1;
}

/// <summary>An organisation whose people get documents without asking, by a link of their own.</summary>
public sealed class AssuranceClient
{
    public long Id { get; init; }

    public required string Name { get; init; }

    public required string Mail { get; init; }

    public LocalDate EndsOn { get; set; }

    public int Opened { get; set; }
}

internal sealed class PolicyTable : IEntityTypeConfiguration<PolicyRow>
{
    public void Configure(EntityTypeBuilder<PolicyRow> table)
    {
        table.ToTable("policy").HasIndex(p => p.Code).IsUnique();
        table.Property(p => p.Version).IsConcurrencyToken();
        table.HasMany(p => p.Versions).WithOne().HasForeignKey(v => v.PolicyId).OnDelete(DeleteBehavior.Cascade);
        table.HasMany(p => p.Copies).WithOne().HasForeignKey(c => c.PolicyId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class PolicyVersionTable : IEntityTypeConfiguration<PolicyVersionRow>
{
    public void Configure(EntityTypeBuilder<PolicyVersionRow> table) =>
        table.ToTable("policy_version").HasIndex(v => new { v.PolicyId, v.Number }).IsUnique();
}

internal sealed class PolicyCopyTable : IEntityTypeConfiguration<PolicyCopy>
{
    public void Configure(EntityTypeBuilder<PolicyCopy> table)
    {
        table
            .ToTable("policy_copy")
            .HasIndex(c => new
            {
                c.PolicyId,
                c.Mail,
                c.Number,
            })
            .IsUnique();
    }
}

internal sealed class ConnectionTable : IEntityTypeConfiguration<ConnectionRow>
{
    public void Configure(EntityTypeBuilder<ConnectionRow> table)
    {
        table.ToTable("connection").HasIndex(c => c.Name).IsUnique();
        table.Property(c => c.Version).IsConcurrencyToken();
        table.HasMany(c => c.Records).WithOne().HasForeignKey(r => r.ConnectionId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class ConnectionRecordTable : IEntityTypeConfiguration<ConnectionRecord>
{
    public void Configure(EntityTypeBuilder<ConnectionRecord> table) =>
        table.ToTable("connection_record").HasIndex(r => new { r.ConnectionId, r.Key }).IsUnique();
}

internal sealed class CrosswalkTable : IEntityTypeConfiguration<CrosswalkRow>
{
    public void Configure(EntityTypeBuilder<CrosswalkRow> table) =>
        table
            .ToTable("crosswalk")
            .HasIndex(c => new
            {
                c.From,
                c.FromCode,
                c.To,
                c.ToCode,
            })
            .IsUnique();
}

internal sealed class AssuranceDocumentTable : IEntityTypeConfiguration<AssuranceDocument>
{
    public void Configure(EntityTypeBuilder<AssuranceDocument> table) => table.ToTable("assurance_document");
}

internal sealed class DocumentAskTable : IEntityTypeConfiguration<DocumentAsk>
{
    public void Configure(EntityTypeBuilder<DocumentAsk> table)
    {
        table.ToTable("document_ask").HasOne<AssuranceDocument>().WithMany().HasForeignKey(a => a.DocumentId);
        table.Property(a => a.Version).IsConcurrencyToken();
    }
}

internal sealed class AssuranceClientTable : IEntityTypeConfiguration<AssuranceClient>
{
    public void Configure(EntityTypeBuilder<AssuranceClient> table) => table.ToTable("assurance_client");
}
