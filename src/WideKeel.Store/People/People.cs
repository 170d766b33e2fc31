using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Store.People;

/// <summary>The settings of the organisation; one row.</summary>
public sealed class Organisation
{
    public long Id { get; init; } = 1;

    public required string Name { get; set; }

    /// <summary>IANA name of the time zone in which retention's dates are read.</summary>
    public required string Zone { get; set; }

    /// <summary><c>MM-DD</c>.</summary>
    public required string FiscalYearEnd { get; set; }

    /// <summary>When the grade WORM was enabled, for good; null while it is not.</summary>
    public Instant? WormEnabledAt { get; set; }

    /// <summary>Owners may start reviews of what they own.</summary>
    public bool OwnersMayReview { get; set; }

    /// <summary>Mail server that takes what the product sends; empty while there is none.</summary>
    public string SmtpHost { get; set; } = "";

    public int SmtpPort { get; set; } = 587;

    /// <summary>Whether the connection must be encrypted (STARTTLS, RFC 3207).</summary>
    public bool SmtpTls { get; set; } = true;

    public string SmtpUser { get; set; } = "";

    /// <summary>Protected by the product's own keys.</summary>
    public string SmtpPassword { get; set; } = "";

    /// <summary>Address that messages come from.</summary>
    public string MailFrom { get; set; } = "";

    /// <summary>Where people reach the product, for the links in messages.</summary>
    public string Address { get; set; } = "";

    /// <summary>
    /// How long certificates and stubs stay, in years; afterwards the list goes and the count remains.
    /// </summary>
    public int CertificateYears { get; set; } = 7;

    /// <summary>
    /// The last day on which the morning's routine ran; at first the day of the set-up, which has nothing behind it.
    /// </summary>
    public LocalDate? DailyRunOn { get; set; }

    /// <summary>Roles whose holders must have one-time codes, comma-separated; empty for none.</summary>
    public string FactorRoles { get; set; } = "";

    /// <summary>
    /// Networks inside the organisation that webhooks and connections may reach, as CIDR blocks with a comma between; what is
    /// public is always reached, and everything else never.
    /// </summary>
    public string InnerNetworks { get; set; } = "";

    /// <summary>Whether what is done in the directory about an alert needs a second person.</summary>
    public bool ActsNeedSecond { get; set; }

    /// <summary>Counts the changes of the directory, so that what was computed from it knows that it is old.</summary>
    public long DirectoryRevision { get; set; }

    /// <summary>
    /// True when the content was generated to show the product; the sign-in page then lists the accounts.
    /// </summary>
    public bool Demo { get; set; }
}

/// <summary>A node of the organisation's tree.</summary>
public sealed class Unit
{
    public long Id { get; init; }

    public long? ParentId { get; init; }

    public required string Name { get; set; }

    /// <summary>Ids from the root down, as <see cref="UnitPath"/> writes them.</summary>
    public required string Path { get; set; }
}

/// <summary>A person who can sign in. The user name is the mail address.</summary>
public sealed class Person : IdentityUser<long>
{
    public required string DisplayName { get; set; }

    public bool Active { get; set; } = true;

    /// <summary>Key of the person's calendar feed; null until they ask for one.</summary>
    public string? CalendarKey { get; set; }

    /// <summary>
    /// The id of whoever made the account or reset its password, and so could have let themselves in; null once the person
    /// chose a password by an invitation that was mailed to them.
    /// </summary>
    public long? PasswordSetById { get; set; }

    public long Version { get; set; } = 1;

    public List<PersonRemit> Remits { get; init; } = [];
}

/// <summary>A role over a unit, held by a person.</summary>
public sealed class PersonRemit
{
    public long Id { get; init; }

    public long PersonId { get; init; }

    public Role Role { get; init; }

    public long UnitId { get; init; }

    public Unit? Unit { get; init; }
}

/// <summary>A key for programs. Only its SHA-256 is kept; the prefix tells keys apart in lists.</summary>
public sealed class ApiKey
{
    public long Id { get; init; }

    public long PersonId { get; init; }

    public required string Name { get; init; }

    public required string Prefix { get; init; }

    public required string Hash { get; init; }

    /// <summary>The rights it may use, of those its person has; comma-separated names.</summary>
    public required string Scopes { get; init; }

    public Instant CreatedAt { get; init; }

    public Instant ExpiresAt { get; init; }

    public Instant? RevokedAt { get; set; }
}

/// <summary>A browser in which a person is signed in. Its cookie is worth nothing once this is ended.</summary>
public sealed class SignInSession
{
    public long Id { get; init; }

    public long PersonId { get; init; }

    /// <summary>SHA-256 of the word in the cookie, lower-case hex.</summary>
    public required string Hash { get; init; }

    public string? Address { get; init; }

    /// <summary>What the browser calls itself, as it said.</summary>
    public required string Browser { get; init; }

    public Instant BegunAt { get; init; }

    public Instant? EndedAt { get; set; }
}

/// <summary>The app that shows a person's one-time codes. One that was never confirmed by a code asks nothing.</summary>
public sealed class Authenticator
{
    public long PersonId { get; init; }

    /// <summary>The key that server and app share, protected by the product's own keys.</summary>
    public required string Key { get; init; }

    /// <summary>When its first code was typed; from then on every sign-in asks for one.</summary>
    public Instant? ConfirmedAt { get; set; }

    /// <summary>The latest step whose code was used, counted from the epoch of Unix time.</summary>
    public long? UsedStep { get; set; }
}

/// <summary>Stands for a one-time code, once. Only its SHA-256 is kept; a used one is gone.</summary>
public sealed class RecoveryCode
{
    public long Id { get; init; }

    public long PersonId { get; init; }

    public required string Hash { get; init; }
}

internal sealed class OrganisationTable : IEntityTypeConfiguration<Organisation>
{
    public void Configure(EntityTypeBuilder<Organisation> table) =>
        table.ToTable("organisation").Property(o => o.Id).ValueGeneratedNever();
}

internal sealed class UnitTable : IEntityTypeConfiguration<Unit>
{
    public void Configure(EntityTypeBuilder<Unit> table)
    {
        table.ToTable("unit").HasIndex(u => u.Path).IsUnique();
        table.HasOne<Unit>().WithMany().HasForeignKey(u => u.ParentId);
    }
}

internal sealed class PersonTable : IEntityTypeConfiguration<Person>
{
    public void Configure(EntityTypeBuilder<Person> table)
    {
        table.ToTable("person").Property(p => p.Version).IsConcurrencyToken();
        table.HasMany(p => p.Remits).WithOne().HasForeignKey(r => r.PersonId);
    }
}

internal sealed class PersonRemitTable : IEntityTypeConfiguration<PersonRemit>
{
    private static readonly Role[] Known = Enum.GetValues<Role>();

    public void Configure(EntityTypeBuilder<PersonRemit> table)
    {
        table
            .ToTable("remit")
            .HasIndex(r => new
            {
                r.PersonId,
                r.Role,
                r.UnitId,
            })
            .IsUnique();
        // A role that this version does not know gives nothing, and must not make its person's every request fail.
        table.HasQueryFilter(r => Known.Contains(r.Role));
    }
}

internal sealed class ApiKeyTable : IEntityTypeConfiguration<ApiKey>
{
    public void Configure(EntityTypeBuilder<ApiKey> table)
    {
        table.ToTable("api_key").HasIndex(k => k.Hash).IsUnique();
        table.HasOne<Person>().WithMany().HasForeignKey(k => k.PersonId);
    }
}

internal sealed class SignInSessionTable : IEntityTypeConfiguration<SignInSession>
{
    public void Configure(EntityTypeBuilder<SignInSession> table)
    {
        table.ToTable("sign_in_session").HasIndex(s => s.Hash).IsUnique();
        table.HasOne<Person>().WithMany().HasForeignKey(s => s.PersonId);
    }
}

internal sealed class AuthenticatorTable : IEntityTypeConfiguration<Authenticator>
{
    public void Configure(EntityTypeBuilder<Authenticator> table)
    {
        table.ToTable("authenticator").HasKey(a => a.PersonId);
        table.Property(a => a.PersonId).ValueGeneratedNever();
        table.HasOne<Person>().WithMany().HasForeignKey(a => a.PersonId);
    }
}

internal sealed class RecoveryCodeTable : IEntityTypeConfiguration<RecoveryCode>
{
    public void Configure(EntityTypeBuilder<RecoveryCode> table)
    {
        table.ToTable("recovery_code").HasIndex(c => new { c.PersonId, c.Hash }).IsUnique();
        table.HasOne<Person>().WithMany().HasForeignKey(c => c.PersonId);
    }
}
