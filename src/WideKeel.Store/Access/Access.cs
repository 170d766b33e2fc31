using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Store.People;

namespace WideKeel.Store.Access;

/// <summary>Two roles that nobody should have together.</summary>
public sealed class ToxicPairRow
{
    public long Id { get; init; }

    public required string Name { get; init; }

    public required string First { get; init; }

    public required string FirstRole { get; init; }

    public required string Second { get; init; }

    public required string SecondRole { get; init; }
}

/// <summary>A review of access.</summary>
public sealed class AccessReview
{
    public long Id { get; init; }

    /// <summary>JSON of <see cref="ReviewDefinition"/>.</summary>
    public required string Definition { get; set; }

    public long PersonId { get; init; }

    public Instant MadeAt { get; init; }

    /// <summary>The day of the next round; null where there is none.</summary>
    public LocalDate? NextOn { get; set; }

    public List<ReviewRound> Rounds { get; init; } = [];

    public long Version { get; set; } = 1;
}

/// <summary>One occurrence of a review, its lines frozen at its start.</summary>
public sealed class ReviewRound
{
    public long Id { get; init; }

    public long ReviewId { get; init; }

    public int Number { get; init; }

    public LocalDate StartedOn { get; init; }

    /// <summary>Which stage asks, from 1.</summary>
    public int Stage { get; set; } = 1;

    /// <summary>Who only stamped in the stages before; mail addresses with spaces between.</summary>
    public string Stamped { get; set; } = "";

    /// <summary>The last day for answers of the stage.</summary>
    public LocalDate EndsOn { get; set; }

    public Instant? EndedAt { get; set; }

    /// <summary>The report as it was at the end, RFC 8785; empty until then.</summary>
    public string Report { get; set; } = "";

    /// <summary>SHA-256 of the report.</summary>
    public string ReportHash { get; set; } = "";

    /// <summary>
    /// What came of removals after the report was frozen: a JSON list, each with the lines that changed, its moment and the
    /// SHA-256 of what stands before it.
    /// </summary>
    public string Addenda { get; set; } = "[]";

    public List<ReviewLine> Lines { get; init; } = [];

    public long Version { get; set; } = 1;
}

/// <summary>One person's access to one group or resource, to decide on.</summary>
public sealed class ReviewLine
{
    public long Id { get; init; }

    public long RoundId { get; init; }

    /// <summary>Mail address; follows the person to another one.</summary>
    public required string Person { get; set; }

    public required string What { get; init; }

    public required string Roles { get; init; }

    /// <summary>Ids, as JSON.</summary>
    public required string Path { get; set; }

    /// <summary>Mail address.</summary>
    public required string Reviewer { get; set; }

    public bool AdviseRemoval { get; init; }

    /// <summary>Sentences, as JSON.</summary>
    public required string Grounds { get; init; }

    /// <summary>The changes of the directory by which a removal is carried out, as a JSON list.</summary>
    public string Chosen { get; set; } = "[]";

    public LineDecision Decision { get; set; }

    /// <summary>What the stages before said, as JSON.</summary>
    public string Former { get; set; } = "[]";

    public string Reason { get; set; } = "";

    public string DecidedBy { get; set; } = "";

    public Instant? DecidedAt { get; set; }

    /// <summary>Its grounds were looked at.</summary>
    public bool Opened { get; set; }

    /// <summary>Decided by nobody: the rule for silence applied.</summary>
    public bool BySilence { get; set; }

    /// <summary>The directory was read again and shows the removal.</summary>
    public bool Applied { get; set; }

    public int Attempts { get; set; }

    public string? Failure { get; set; }

    public long Version { get; set; } = 1;
}

/// <summary>Somebody who has lines of a round to decide on, with or without an account here.</summary>
public sealed class ReviewerLink
{
    public long Id { get; init; }

    public long RoundId { get; init; }

    public required string Mail { get; init; }

    public Instant SentAt { get; init; }

    public Instant? RemindedAt { get; set; }
}

/// <summary>How owners are looked for; one row, or none for the standard.</summary>
public sealed class OwnerSettings
{
    public long Id { get; init; } = 1;

    /// <summary>JSON of <see cref="OwnerRule"/>.</summary>
    public required string Rule { get; set; }
}

/// <summary>Somebody who was asked to answer for a group or place.</summary>
public sealed class OwnerQuestion
{
    public long Id { get; init; }

    /// <summary>Key of the group or place.</summary>
    public required string Thing { get; init; }

    /// <summary>Mail address.</summary>
    public required string Person { get; init; }

    /// <summary>The how-manieth time somebody is asked about it, from 1.</summary>
    public int Round { get; init; }

    public LocalDate AskedOn { get; init; }

    public OwnerAnswer Answer { get; set; }

    public Instant? AnsweredAt { get; set; }
}

/// <summary>What follows when a list to mend has a new line.</summary>
public sealed class MendingNews
{
    public long Id { get; init; }

    /// <summary>Name of the list.</summary>
    public required string List { get; init; }

    /// <summary>Whether each new line goes to the connected addresses, as a ticket.</summary>
    public bool Tickets { get; set; }

    /// <summary>Mail addresses with spaces between.</summary>
    public string Recipients { get; set; } = "";
}

/// <summary>A line of a list to mend that was there when it was looked at last.</summary>
public sealed class MendingSeen
{
    public long Id { get; init; }

    public required string List { get; init; }

    /// <summary>Whom and what it is about.</summary>
    public required string Line { get; init; }

    public LocalDate Since { get; init; }
}

internal sealed class OwnerSettingsTable : IEntityTypeConfiguration<OwnerSettings>
{
    public void Configure(EntityTypeBuilder<OwnerSettings> table) =>
        table.ToTable("owner_settings").Property(s => s.Id).ValueGeneratedNever();
}

internal sealed class OwnerQuestionTable : IEntityTypeConfiguration<OwnerQuestion>
{
    public void Configure(EntityTypeBuilder<OwnerQuestion> table)
    {
        table.ToTable("owner_question").HasIndex(q => q.Thing);
    }
}

internal sealed class MendingNewsTable : IEntityTypeConfiguration<MendingNews>
{
    public void Configure(EntityTypeBuilder<MendingNews> table) =>
        table.ToTable("mending_news").HasIndex(n => n.List).IsUnique();
}

internal sealed class MendingSeenTable : IEntityTypeConfiguration<MendingSeen>
{
    public void Configure(EntityTypeBuilder<MendingSeen> table) =>
        table.ToTable("mending_seen").HasIndex(s => new { s.List, s.Line }).IsUnique();
}

internal sealed class ToxicPairTable : IEntityTypeConfiguration<ToxicPairRow>
{
    public void Configure(EntityTypeBuilder<ToxicPairRow> table) => table.ToTable("toxic_pair");
}

internal sealed class AccessReviewTable : IEntityTypeConfiguration<AccessReview>
{
    public void Configure(EntityTypeBuilder<AccessReview> table)
    {
        table.ToTable("review").Property(r => r.Version).IsConcurrencyToken();
        table.HasOne<Person>().WithMany().HasForeignKey(r => r.PersonId);
        table.HasMany(r => r.Rounds).WithOne().HasForeignKey(r => r.ReviewId);
    }
}

internal sealed class ReviewRoundTable : IEntityTypeConfiguration<ReviewRound>
{
    public void Configure(EntityTypeBuilder<ReviewRound> table)
    {
        table.ToTable("review_round").HasIndex(r => new { r.ReviewId, r.Number }).IsUnique();
        table.Property(r => r.Version).IsConcurrencyToken();
        table.HasMany(r => r.Lines).WithOne().HasForeignKey(l => l.RoundId);
    }
}

internal sealed class ReviewLineTable : IEntityTypeConfiguration<ReviewLine>
{
    public void Configure(EntityTypeBuilder<ReviewLine> table)
    {
        table.ToTable("review_line").HasIndex(l => new { l.RoundId, l.Reviewer });
        table.HasIndex(l => l.Person);
        table.Property(l => l.Version).IsConcurrencyToken();
    }
}

internal sealed class ReviewerLinkTable : IEntityTypeConfiguration<ReviewerLink>
{
    public void Configure(EntityTypeBuilder<ReviewerLink> table)
    {
        table.ToTable("reviewer_link").HasIndex(l => new { l.RoundId, l.Mail }).IsUnique();
        table.HasOne<ReviewRound>().WithMany().HasForeignKey(l => l.RoundId);
    }
}
