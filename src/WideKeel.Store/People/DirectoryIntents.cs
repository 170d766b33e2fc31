using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace WideKeel.Store.People;

/// <summary>
/// One change that the directory is to be asked for. It is written in the transaction of the change that wants it, carried
/// out after the commit, and its outcome is recorded; a stop in between leaves it without an outcome, and it is asked
/// again.
/// </summary>
public sealed class DirectoryIntent
{
    public long Id { get; init; }

    /// <summary>Who acts, as the ledger names them (JSON).</summary>
    public required string Actor { get; init; }

    /// <summary>What is asked for (JSON of a <c>DirectoryChange</c>).</summary>
    public required string Change { get; init; }

    /// <summary>What it is done for.</summary>
    public required string Because { get; init; }

    /// <summary>Which follower hears of the outcome; empty where none does.</summary>
    public string Follower { get; init; } = "";

    /// <summary>The number of what the follower looks after.</summary>
    public long SubjectId { get; init; }

    public Instant AskedAt { get; init; }

    /// <summary>When its outcome was recorded; null while it waits.</summary>
    public Instant? CameOutAt { get; set; }

    /// <summary>The directory was read again and shows the change.</summary>
    public bool Verified { get; set; }

    /// <summary>Why it was not carried out; null where it was, or has no outcome yet.</summary>
    public string? Failure { get; set; }
}

internal sealed class DirectoryIntentTable : IEntityTypeConfiguration<DirectoryIntent>
{
    public void Configure(EntityTypeBuilder<DirectoryIntent> table)
    {
        table.ToTable("directory_intent").HasIndex(i => new { i.Follower, i.SubjectId });
        // Nearly all of them have come out; those that wait are asked for at every start.
        table.HasIndex(i => i.Id).HasFilter("\"CameOutAt\" IS NULL").HasDatabaseName("IX_directory_intent_waiting");
    }
}
