using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace WideKeel.Store.Readiness;

/// <summary>An entry of a register: a policy, risk, supplier, training, change or incident.</summary>
public sealed class RegisterEntry
{
    public long Id { get; init; }

    public required string Kind { get; init; }

    public required string Title { get; set; }

    public string Says { get; set; } = "";

    public string Owner { get; set; } = "";

    /// <summary>The day by which it is to be looked at, done or renewed.</summary>
    public LocalDate? Due { get; set; }

    public LocalDate? DoneOn { get; set; }

    /// <summary>1 to 5, of a risk before treatment.</summary>
    public int Likelihood { get; set; }

    public int Impact { get; set; }

    /// <summary>1 to 5, of a risk after treatment.</summary>
    public int LikelihoodAfter { get; set; }

    public int ImpactAfter { get; set; }

    /// <summary>How a risk is treated: avoid, reduce, share or accept; empty where nothing was decided, and of others.</summary>
    public string Treatment { get; set; } = "";

    /// <summary>Tier of a supplier, what is done about a risk, state of an incident.</summary>
    public string Mark { get; set; } = "";

    /// <summary>Codes of controls, with spaces between.</summary>
    public string Controls { get; set; } = "";

    public long Version { get; set; } = 1;
}

/// <summary>A file that belongs to an entry of a register.</summary>
public sealed class RegisterDocument : IGivenFile
{
    public long Id { get; init; }

    public long EntryId { get; init; }

    public required string Title { get; init; }

    public required string FileName { get; init; }

    /// <summary>SHA-256, hexadecimal; its place in the folder of files.</summary>
    public required string Hash { get; init; }

    public long Bytes { get; init; }

    public Instant? BrokenSince { get; set; }

    string IGivenFile.FileHash => Hash;

    /// <summary>The last day on which it speaks; null where it has none.</summary>
    public LocalDate? ValidThrough { get; init; }

    public Instant GivenAt { get; init; }

    public required string By { get; init; }
}

internal sealed class RegisterEntryTable : IEntityTypeConfiguration<RegisterEntry>
{
    public void Configure(EntityTypeBuilder<RegisterEntry> table)
    {
        table.ToTable("register_entry").HasIndex(e => e.Kind);
        table.Property(e => e.Version).IsConcurrencyToken();
    }
}

internal sealed class RegisterDocumentTable : IEntityTypeConfiguration<RegisterDocument>
{
    public void Configure(EntityTypeBuilder<RegisterDocument> table)
    {
        table.ToTable("register_document");
        table.HasOne<RegisterEntry>().WithMany().HasForeignKey(d => d.EntryId).OnDelete(DeleteBehavior.Cascade);
    }
}
