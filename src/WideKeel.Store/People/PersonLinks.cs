using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace WideKeel.Store.People;

/// <summary>What a link lets its holder do.</summary>
public enum LinkKind
{
    Review,
    Notice,
    Policy,
    Ownership,
    Document,
    Client,
    Invitation,
}

/// <summary>
/// A link that was mailed to one person, by which they act without an account. Only its SHA-256 is kept, so that whoever
/// reads the database, a list or a backup cannot act in that person's name.
/// </summary>
public sealed class PersonLink
{
    public long Id { get; init; }

    public LinkKind Kind { get; init; }

    /// <summary>What it opens: the number of a reviewer's part, a copy, a question, a request, a client or an account.</summary>
    public long SubjectId { get; init; }

    /// <summary>Whom it was mailed to.</summary>
    public required string Mail { get; init; }

    /// <summary>Lower-case hex.</summary>
    public required string Hash { get; init; }

    public Instant MadeAt { get; init; }

    public Instant ExpiresAt { get; set; }

    /// <summary>Null while it opens.</summary>
    public Instant? EndedAt { get; set; }

    /// <summary>Its message is on its way to the person; else it was shown to whoever made it, to be handed over.</summary>
    public bool WasMailed { get; set; } = true;

    /// <summary>SHA-256 of the code that was mailed last; null where none is awaited.</summary>
    public string? CodeHash { get; set; }

    public Instant? CodeSentAt { get; set; }

    /// <summary>Wrong codes since the last one was mailed.</summary>
    public int WrongCodes { get; set; }

    /// <summary>SHA-256 of what the browser keeps in which the right code was typed.</summary>
    public string? BrowserHash { get; set; }

    public Instant? BrowserUntil { get; set; }
}

internal sealed class PersonLinkTable : IEntityTypeConfiguration<PersonLink>
{
    public void Configure(EntityTypeBuilder<PersonLink> table)
    {
        table.ToTable("person_link").HasIndex(l => l.Hash).IsUnique();
        table.HasIndex(l => new { l.Kind, l.SubjectId });
        table.Property(l => l.Mail).UseCollation("NOCASE");
        table.Property(l => l.Kind).HasConversion<string>();
    }
}
