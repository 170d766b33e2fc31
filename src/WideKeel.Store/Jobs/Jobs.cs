using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace WideKeel.Store.Jobs;

public enum JobState
{
    Queued,
    Running,
    Done,
    Failed,
    Cancelled,
}

/// <summary>
/// Long work as a row: what, for whom, how far. Its steps are idempotent, so a row found running at start is simply run
/// again from its cursor.
/// </summary>
public sealed class Job
{
    public long Id { get; init; }

    public required string Kind { get; init; }

    /// <summary>Id of the source, series or batch that it works on.</summary>
    public long SubjectId { get; init; }

    public required string Title { get; init; }

    /// <summary>
    /// Path of the unit whose people may see it; null when only those over the whole organisation may.
    /// </summary>
    public string? Unit { get; init; }

    /// <summary>It belongs to a matter, and only members may see it.</summary>
    public long? MatterId { get; init; }

    /// <summary>Nobody may stop it.</summary>
    public bool RunsToItsEnd { get; init; }

    /// <summary>What it changes, in the words of the interface, with spaces between.</summary>
    public string Changes { get; init; } = "";

    public JobState State { get; set; }

    /// <summary>Where to go on; its meaning belongs to the kind.</summary>
    public string? Cursor { get; set; }

    public long Done { get; set; }

    /// <summary>0 while unknown.</summary>
    public long Total { get; set; }

    public string? Message { get; set; }

    public bool CancelAsked { get; set; }

    public required string AskedBy { get; init; }

    public Instant AskedAt { get; init; }

    public Instant? StartedAt { get; set; }

    public Instant? EndedAt { get; set; }
}

internal sealed class JobTable : IEntityTypeConfiguration<Job>
{
    public void Configure(EntityTypeBuilder<Job> table) => table.ToTable("job").HasIndex(j => new { j.State, j.Id });
}
