using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Store.Content;

namespace WideKeel.Store.Workspace;

/// <summary>What the workspace knows of a file beyond its item.</summary>
public sealed class WorkspaceFile
{
    public long ItemId { get; init; }

    public Item? Item { get; init; }

    /// <summary>Whoever changed it last.</summary>
    public required string By { get; set; }

    public Instant At { get; set; }

    /// <summary>The file of which this one is a newer version, because that one's content may not change.</summary>
    public long? FollowsId { get; init; }

    public long Revision { get; set; } = 1;
}

/// <summary>One state of a file's content. The last is what the file holds; the others lie in safekeeping.</summary>
public sealed class WorkspaceVersion
{
    public long ItemId { get; init; }

    /// <summary>From 1.</summary>
    public int Number { get; init; }

    public required string Hash { get; init; }

    public long Bytes { get; init; }

    public required string By { get; init; }

    public Instant At { get; init; }
}

internal sealed class WorkspaceFileTable : IEntityTypeConfiguration<WorkspaceFile>
{
    public void Configure(EntityTypeBuilder<WorkspaceFile> table)
    {
        table.ToTable("workspace_file").HasKey(f => f.ItemId);
        table.Property(f => f.ItemId).ValueGeneratedNever();
        table.Property(f => f.Revision).IsConcurrencyToken();
        table.HasOne(f => f.Item).WithOne().HasForeignKey<WorkspaceFile>(f => f.ItemId);
        table.HasIndex(f => f.FollowsId);
    }
}

internal sealed class WorkspaceVersionTable : IEntityTypeConfiguration<WorkspaceVersion>
{
    public void Configure(EntityTypeBuilder<WorkspaceVersion> table) =>
        table.ToTable("workspace_version").HasKey(v => new { v.ItemId, v.Number });
}
