using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Store.People;

/// <summary>How a directory reaches the product.</summary>
public enum DirectorySourceKind
{
    /// <summary>Tables and LDIF that somebody takes in.</summary>
    Files,

    /// <summary>A program that sends each change by SCIM 2.0.</summary>
    Scim,

    /// <summary>The simulated directory, which is read, and carries out what is decided here.</summary>
    StandIn,
}

/// <summary>Where people, groups, places and grants come from.</summary>
public sealed class DirectorySource
{
    public long Id { get; init; }

    public DirectorySourceKind Kind { get; init; }

    public required string Name { get; set; }

    /// <summary>SHA-256 of the token by which a program sends; empty where none does.</summary>
    public string TokenHash { get; set; } = "";

    /// <summary>What the token begins with, to tell tokens apart.</summary>
    public string TokenPrefix { get; set; } = "";

    public Instant MadeAt { get; init; }

    /// <summary>When something came from it last.</summary>
    public Instant? LastAt { get; set; }

    /// <summary>When it was disconnected; what came from it stays, and another source may take it over.</summary>
    public Instant? EndedAt { get; set; }

    /// <summary>Which state of the outside was read last, for a source that is read.</summary>
    public long ReadState { get; set; }
}

/// <summary>An account of the organisation as its directory knows it, whether or not its person can sign in here.</summary>
public sealed class DirectoryPerson
{
    public long Id { get; init; }

    public long SourceId { get; set; }

    /// <summary>What the source calls it: the externalId of SCIM (RFC 7643, 3.1), the DN of LDIF.</summary>
    public string ExternalId { get; set; } = "";

    /// <summary>The userName of SCIM (RFC 7643, 4.1); empty where the source has none besides the address.</summary>
    public string UserName { get; set; } = "";

    public required string Name { get; set; }

    public string GivenName { get; set; } = "";

    public string FamilyName { get; set; } = "";

    /// <summary>Tells accounts apart; without case. An address, or the name of a service account.</summary>
    public required string Mail { get; set; }

    public AccountKind Kind { get; set; }

    public string Unit { get; set; } = "";

    public string Title { get; set; } = "";

    /// <summary>Mail address of the manager; empty where there is none.</summary>
    public string Manager { get; set; } = "";

    /// <summary>The first day with the organisation; null where none is known.</summary>
    public LocalDate? JoinedOn { get; set; }

    /// <summary>The last day with the organisation; null where none is known.</summary>
    public LocalDate? LeavesOn { get; set; }

    /// <summary>Mail address of whoever answers for a guest; empty where nobody does.</summary>
    public string Sponsor { get; set; } = "";

    public bool Suspended { get; set; }

    /// <summary>
    /// Whether the person may not act on a day: the last day is past, the source deleted the account, or suspended it.
    /// </summary>
    public bool HasLeft(LocalDate today) => Suspended || RemovedAt is not null || LeavesOn < today;

    public bool SecondFactor { get; set; } = true;

    public Instant MadeAt { get; init; }

    public Instant ChangedAt { get; set; }

    /// <summary>When the source deleted it: it has left, and the source sees it no more.</summary>
    public Instant? RemovedAt { get; set; }

    public long Version { get; set; } = 1;
}

/// <summary>A group of the directory.</summary>
public sealed class DirectoryGroup
{
    public long Id { get; init; }

    public long SourceId { get; set; }

    public string ExternalId { get; set; } = "";

    /// <summary>What grants and other groups name it by; it stays when the name changes.</summary>
    public required string Key { get; init; }

    public required string Name { get; set; }

    /// <summary>Mail address; empty where nobody owns it.</summary>
    public string Owner { get; set; } = "";

    public Instant MadeAt { get; init; }

    public Instant ChangedAt { get; set; }

    /// <summary>When the source deleted it; it has no members then.</summary>
    public Instant? RemovedAt { get; set; }

    public long Version { get; set; } = 1;

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

/// <summary>A place or application of the directory, to which access is granted.</summary>
public sealed class DirectoryPlace
{
    public long Id { get; init; }

    public long SourceId { get; set; }

    public required string Key { get; init; }

    public required string Name { get; set; }

    /// <summary>library, share, mailbox or application.</summary>
    public required string Kind { get; set; }

    /// <summary>Key of the place that it lies in; empty at the top.</summary>
    public string Parent { get; set; } = "";

    public bool Inherits { get; set; }

    public string Owner { get; set; } = "";

    public bool OutsideAllowed { get; set; }

    public bool Sensitive { get; set; }

    /// <summary>Where its material must stay; empty where it may be anywhere.</summary>
    public string Region { get; set; } = "";

    public List<DirectoryLink> Links { get; init; } = [];
}

/// <summary>A link by which people reach a place.</summary>
public sealed class DirectoryLink
{
    public long Id { get; init; }

    public long PlaceId { get; init; }

    /// <summary>anyone or organisation.</summary>
    public required string To { get; init; }

    public required string Role { get; init; }

    /// <summary>Who made it.</summary>
    public string By { get; init; } = "";

    public LocalDate? Ends { get; init; }
}

/// <summary>A role on a place, given to a person or group.</summary>
public sealed class DirectoryGrant
{
    public long Id { get; init; }

    public long SourceId { get; set; }

    /// <summary>Mail address of a person, or key of a group.</summary>
    public required string To { get; init; }

    /// <summary>Key of the place.</summary>
    public required string Place { get; init; }

    public required string Role { get; init; }
}

/// <summary>A program of others to which people have consented.</summary>
public sealed class DirectoryApplication
{
    public long Id { get; init; }

    public long SourceId { get; set; }

    public required string Key { get; init; }

    public required string Name { get; set; }

    public string Publisher { get; set; } = "";

    public List<DirectoryConsent> Consents { get; init; } = [];
}

/// <summary>What somebody allows a program to do.</summary>
public sealed class DirectoryConsent
{
    public long Id { get; init; }

    public long ApplicationId { get; init; }

    /// <summary>Mail address of a person, or organisation for everybody.</summary>
    public required string By { get; init; }

    /// <summary>With spaces between.</summary>
    public required string Scopes { get; init; }

    public LocalDate? LastUsed { get; init; }
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

internal sealed class DirectorySourceTable : IEntityTypeConfiguration<DirectorySource>
{
    public void Configure(EntityTypeBuilder<DirectorySource> table) =>
        table.ToTable("directory_source").HasIndex(s => s.Name).IsUnique();
}

internal sealed class DirectoryPersonTable : IEntityTypeConfiguration<DirectoryPerson>
{
    public void Configure(EntityTypeBuilder<DirectoryPerson> table)
    {
        table.ToTable("directory_person").Property(p => p.Mail).UseCollation("NOCASE");
        table.Property(p => p.UserName).UseCollation("NOCASE");
        table.Property(p => p.Version).IsConcurrencyToken();
        table.HasIndex(p => p.Mail).IsUnique();
        table.HasIndex(p => new { p.SourceId, p.UserName });
        table.HasOne<DirectorySource>().WithMany().HasForeignKey(p => p.SourceId);
    }
}

/// <summary>
/// What a change of the directory touched, so that whoever knows the state before it reads only that. A change without
/// such rows may have touched anything.
/// </summary>
public sealed class DirectoryTouch
{
    public long Id { get; init; }

    /// <summary>The directory's revision after the change.</summary>
    public long Revision { get; init; }

    /// <summary>A grant is of its place.</summary>
    public DirectoryThing Thing { get; init; }

    /// <summary>The mail address of a person, the key of anything else.</summary>
    public required string Key { get; init; }
}

internal sealed class DirectoryTouchTable : IEntityTypeConfiguration<DirectoryTouch>
{
    public void Configure(EntityTypeBuilder<DirectoryTouch> table) =>
        table.ToTable("directory_touch").HasIndex(t => t.Revision);
}

internal sealed class DirectoryGroupTable : IEntityTypeConfiguration<DirectoryGroup>
{
    public void Configure(EntityTypeBuilder<DirectoryGroup> table)
    {
        table.ToTable("directory_group").HasIndex(g => g.Name).IsUnique();
        table.HasIndex(g => g.Key).IsUnique();
        table.Property(g => g.Version).IsConcurrencyToken();
        table.HasOne<DirectorySource>().WithMany().HasForeignKey(g => g.SourceId);
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

internal sealed class DirectoryPlaceTable : IEntityTypeConfiguration<DirectoryPlace>
{
    public void Configure(EntityTypeBuilder<DirectoryPlace> table)
    {
        table.ToTable("directory_place").HasIndex(p => p.Key).IsUnique();
        table.HasOne<DirectorySource>().WithMany().HasForeignKey(p => p.SourceId);
        table.HasMany(p => p.Links).WithOne().HasForeignKey(l => l.PlaceId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class DirectoryLinkTable : IEntityTypeConfiguration<DirectoryLink>
{
    public void Configure(EntityTypeBuilder<DirectoryLink> table) => table.ToTable("directory_link");
}

internal sealed class DirectoryGrantTable : IEntityTypeConfiguration<DirectoryGrant>
{
    public void Configure(EntityTypeBuilder<DirectoryGrant> table)
    {
        table
            .ToTable("directory_grant")
            .HasIndex(g => new
            {
                g.Place,
                g.To,
                g.Role,
            })
            .IsUnique();
        table.HasIndex(g => g.To);
        table.HasOne<DirectorySource>().WithMany().HasForeignKey(g => g.SourceId);
    }
}

internal sealed class DirectoryApplicationTable : IEntityTypeConfiguration<DirectoryApplication>
{
    public void Configure(EntityTypeBuilder<DirectoryApplication> table)
    {
        table.ToTable("directory_application").HasIndex(a => a.Key).IsUnique();
        table.HasOne<DirectorySource>().WithMany().HasForeignKey(a => a.SourceId);
        table.HasMany(a => a.Consents).WithOne().HasForeignKey(c => c.ApplicationId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class DirectoryConsentTable : IEntityTypeConfiguration<DirectoryConsent>
{
    public void Configure(EntityTypeBuilder<DirectoryConsent> table) => table.ToTable("directory_consent");
}
