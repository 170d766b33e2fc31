using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace WideKeel.Store.People;

/// <summary>A person of the organisation as its directory knows them, whether or not they can sign in here.</summary>
public sealed class DirectoryPerson
{
    public long Id { get; init; }

    public required string Name { get; set; }

    /// <summary>Tells people apart; without case.</summary>
    public required string Mail { get; set; }

    public string Unit { get; set; } = "";

    public string Title { get; set; } = "";

    /// <summary>Mail address of the manager; empty where there is none.</summary>
    public string Manager { get; set; } = "";

    /// <summary>The last day with the organisation; null where none is known.</summary>
    public LocalDate? LeavesOn { get; set; }
}

/// <summary>A group of the directory.</summary>
public sealed class DirectoryGroup
{
    public long Id { get; init; }

    public required string Name { get; set; }

    public List<DirectoryMembership> Members { get; init; } = [];
}

/// <summary>A person, or another group, within a group.</summary>
public sealed class DirectoryMembership
{
    public long Id { get; init; }

    public long GroupId { get; init; }

    public long? PersonId { get; init; }

    public long? SubgroupId { get; init; }
}

/// <summary>How the directory is asked, wherever it is.</summary>
public static class DirectoryQueries
{
    /// <summary>
    /// People whose name, address or unit contains what was typed, as it stands; all of them where nothing was.
    /// </summary>
    public static IQueryable<DirectoryPerson> Found(this IQueryable<DirectoryPerson> people, string? typed)
    {
        var pattern = Like.Containing(typed);
        return people.Where(p =>
            EF.Functions.Like(p.Name, pattern, Like.Escape)
            || EF.Functions.Like(p.Mail, pattern, Like.Escape)
            || EF.Functions.Like(p.Unit, pattern, Like.Escape)
        );
    }
}

internal sealed class DirectoryPersonTable : IEntityTypeConfiguration<DirectoryPerson>
{
    public void Configure(EntityTypeBuilder<DirectoryPerson> table)
    {
        table.ToTable("directory_person").Property(p => p.Mail).UseCollation("NOCASE");
        table.HasIndex(p => p.Mail).IsUnique();
    }
}

internal sealed class DirectoryGroupTable : IEntityTypeConfiguration<DirectoryGroup>
{
    public void Configure(EntityTypeBuilder<DirectoryGroup> table)
    {
        table.ToTable("directory_group").HasIndex(g => g.Name).IsUnique();
        table.HasMany(g => g.Members).WithOne().HasForeignKey(m => m.GroupId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class DirectoryMembershipTable : IEntityTypeConfiguration<DirectoryMembership>
{
    public void Configure(EntityTypeBuilder<DirectoryMembership> table)
    {
        table
            .ToTable("directory_membership")
            .HasIndex(m => new
            {
                m.GroupId,
                m.PersonId,
                m.SubgroupId,
            })
            .IsUnique();
        table.HasOne<DirectoryPerson>().WithMany().HasForeignKey(m => m.PersonId);
        table.HasOne<DirectoryGroup>().WithMany().HasForeignKey(m => m.SubgroupId);
    }
}
