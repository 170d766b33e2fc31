using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.Disposition;
using WideKeel.Core.Retention;

namespace WideKeel.Store.Disposition;

/// <summary>What a batch disposes under: a series, or a blanket, which nobody signs for.</summary>
/// <param name="Stages">Empty where it destroys without sign-off.</param>
/// <param name="Transfers">What is not marked otherwise is handed over to an archive.</param>
public sealed record Ruler(
    string Code,
    string Title,
    long UnitId,
    string Unit,
    int Version,
    IReadOnlyList<Stage> Stages,
    int GraceDays,
    IReadOnlyList<string> Authorities,
    bool Transfers
);

/// <summary>Items of one series, or of one blanket, that are disposed of together.</summary>
public sealed class Batch
{
    public long Id { get; init; }

    public long? SeriesId { get; init; }

    public Retention.Series? Series { get; init; }

    /// <summary>Where it is under a blanket.</summary>
    public long? BlanketId { get; init; }

    public Retention.Blanket? Blanket { get; init; }

    /// <summary>Read <see cref="Rulers.WithRuler"/> before this is asked for.</summary>
    public Ruler Ruler =>
        Series is { InForce: { } definition } series
            ? new(
                series.Code,
                series.Title,
                series.UnitId,
                series.Unit!.Name,
                series.VersionInForce,
                definition.AtEnd == EndAction.Destroy ? [] : definition.Stages,
                definition.GraceDays,
                definition.Authorities,
                definition.AtEnd == EndAction.Transfer
            )
            : new(
                "Blanket",
                Blanket!.Name,
                Blanket.UnitId,
                Blanket.Unit!.Name,
                Blanket.VersionInForce,
                [],
                0,
                [],
                false
            );

    /// <summary>
    /// First day of the month in which all of it fell due; null where it holds what was due of every month.
    /// </summary>
    public LocalDate? Month { get; init; }

    /// <summary>Since when the next stage waits.</summary>
    public Instant StageSince { get; set; }

    /// <summary>The version of the series under which the items fell due.</summary>
    public int SeriesVersion { get; init; }

    public BatchState State { get; set; }

    public required string OpenedBy { get; init; }

    public Instant OpenedAt { get; init; }

    public Instant? DoneAt { get; set; }

    public long? CertificateId { get; set; }

    public long Revision { get; set; } = 1;

    public List<SignOff> SignOffs { get; init; } = [];
}

public static class Rulers
{
    /// <summary>Reads what the batches dispose under along with them.</summary>
    public static IQueryable<Batch> WithRuler(this IQueryable<Batch> batches) =>
        batches.Include(b => b.Series).ThenInclude(s => s!.Unit).Include(b => b.Blanket).ThenInclude(b => b!.Unit);
}

/// <summary>How far a line has come.</summary>
public enum LineState
{
    Waiting,

    /// <summary>Re-checked and about to be destroyed; after a stop in the middle, the job goes on from here.</summary>
    Destroying,
    Destroyed,
    Extended,
    Refiled,

    /// <summary>Copied into the batch's bundle, and still at its source.</summary>
    Bundled,

    /// <summary>Lies whole in a bundle and is gone from its source.</summary>
    Transferred,

    /// <summary>Left the batch at re-check; the reason says why.</summary>
    DroppedOut,

    /// <summary>The source could not delete it; tried again on request.</summary>
    Failed,
}

/// <summary>One item in a batch.</summary>
public sealed class BatchLine
{
    public long BatchId { get; init; }

    public long ItemId { get; init; }

    public Content.Item? Item { get; init; }

    public Mark Mark { get; set; }

    public LocalDate? ExtendUntil { get; set; }

    public string? ExtendWhy { get; set; }

    /// <summary>Under which series it is filed instead.</summary>
    public long? RefileTo { get; set; }

    public string? MarkedBy { get; set; }

    /// <summary>SHA-256 of the content when the batch was opened.</summary>
    public required string Hash { get; init; }

    public LineState State { get; set; }

    public string? Outcome { get; set; }

    public string? FirstOpenedBy { get; set; }
}

/// <summary>What a reviewer asked somebody about an item of a batch.</summary>
public sealed class Question
{
    public long Id { get; init; }

    public long BatchId { get; init; }

    public long ItemId { get; init; }

    public long AskedOfId { get; init; }

    public required string AskedOf { get; init; }

    public long AskedById { get; init; }

    public required string AskedBy { get; init; }

    public required string Text { get; init; }

    public Instant At { get; init; }

    public string? Answer { get; set; }

    public Instant? AnsweredAt { get; set; }
}

/// <summary>One signature under a batch.</summary>
public sealed class SignOff
{
    public long Id { get; init; }

    public long BatchId { get; init; }

    /// <summary>0-based.</summary>
    public int Stage { get; init; }

    public long PersonId { get; init; }

    public required string PersonName { get; init; }

    public required string Comment { get; init; }

    /// <summary>How many of the lines this signature saw opened, by anyone, when it was given.</summary>
    public int LinesOpened { get; init; }

    public int Lines { get; init; }

    public Instant At { get; init; }
}

/// <summary>
/// What a batch hands over to an archive, as a bag (RFC 8493) beside the database until the archive has confirmed that
/// it has it.
/// </summary>
public sealed class Bundle
{
    public long Id { get; init; }

    public long BatchId { get; init; }

    public int Items { get; set; }

    public long Bytes { get; set; }

    /// <summary>
    /// SHA-256 of <c>tagmanifest-sha256.txt</c>, which in turn vouches for everything in the bag; lower-case hex.
    /// </summary>
    public required string Hash { get; set; }

    public Instant MadeAt { get; set; }

    /// <summary>When somebody noted that the archive has it; the copy here is gone since.</summary>
    public Instant? ReceivedAt { get; set; }

    public string? ReceivedBy { get; set; }

    /// <summary>What the archive calls it.</summary>
    public string? Receipt { get; set; }

    public long Revision { get; set; } = 1;
}

/// <summary>The proof that remains: the document as it was issued.</summary>
public sealed class Certificate
{
    public long Id { get; init; }

    /// <summary>
    /// <c>2026-0007</c>; <c>2026-0007/2</c> for the first supplement, over what a further try destroyed.
    /// </summary>
    public required string Number { get; init; }

    public long BatchId { get; init; }

    /// <summary>Code and title of the series, or of the blanket, as they were.</summary>
    public required string Code { get; init; }

    public required string Title { get; init; }

    public long UnitId { get; init; }

    public Instant IssuedAt { get; init; }

    public int Items { get; init; }

    public long Bytes { get; init; }

    /// <summary>
    /// The certificate as JSON; the PDF is drawn from it. Empty once its own term is over: number and counts remain.
    /// </summary>
    public required string Document { get; set; }
}

internal sealed class BatchTable : IEntityTypeConfiguration<Batch>
{
    public void Configure(EntityTypeBuilder<Batch> table)
    {
        table.ToTable("batch").HasOne(b => b.Series).WithMany().HasForeignKey(b => b.SeriesId);
        table.HasOne(b => b.Blanket).WithMany().HasForeignKey(b => b.BlanketId);
        table.Ignore(b => b.Ruler);
        table.Property(b => b.Revision).IsConcurrencyToken();
        table.HasMany(b => b.SignOffs).WithOne().HasForeignKey(s => s.BatchId);
    }
}

internal sealed class BatchLineTable : IEntityTypeConfiguration<BatchLine>
{
    public void Configure(EntityTypeBuilder<BatchLine> table)
    {
        table.ToTable("batch_line").HasKey(l => new { l.BatchId, l.ItemId });
        table.HasOne<Batch>().WithMany().HasForeignKey(l => l.BatchId);
        table.HasOne(l => l.Item).WithMany().HasForeignKey(l => l.ItemId);
        table.HasIndex(l => l.ItemId);
        table.HasIndex(l => new { l.BatchId, l.State });
    }
}

internal sealed class QuestionTable : IEntityTypeConfiguration<Question>
{
    public void Configure(EntityTypeBuilder<Question> table)
    {
        table.ToTable("question").HasOne<Batch>().WithMany().HasForeignKey(q => q.BatchId);
        table.HasOne<Content.Item>().WithMany().HasForeignKey(q => q.ItemId);
        table.HasOne<People.Person>().WithMany().HasForeignKey(q => q.AskedOfId);
        table.HasIndex(q => new { q.BatchId, q.ItemId });
    }
}

internal sealed class BundleTable : IEntityTypeConfiguration<Bundle>
{
    public void Configure(EntityTypeBuilder<Bundle> table)
    {
        table.ToTable("bundle").HasOne<Batch>().WithMany().HasForeignKey(b => b.BatchId);
        table.HasIndex(b => b.BatchId);
        table.Property(b => b.Revision).IsConcurrencyToken();
    }
}

internal sealed class SignOffTable : IEntityTypeConfiguration<SignOff>
{
    public void Configure(EntityTypeBuilder<SignOff> table)
    {
        // The database, too, knows that a stage is signed once and nobody signs twice.
        table.ToTable("sign_off").HasIndex(s => new { s.BatchId, s.Stage }).IsUnique();
        table.HasIndex(s => new { s.BatchId, s.PersonId }).IsUnique();
    }
}

internal sealed class CertificateTable : IEntityTypeConfiguration<Certificate>
{
    public void Configure(EntityTypeBuilder<Certificate> table)
    {
        table.ToTable("certificate").HasIndex(c => c.Number).IsUnique();
        table.HasIndex(c => c.BatchId);
    }
}
