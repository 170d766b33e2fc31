using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.Content;

namespace WideKeel.Store.Content;

/// <summary>A connected system that holds content.</summary>
public sealed class Source
{
    public long Id { get; init; }

    public required string Name { get; set; }

    public Core.Content.SourceKind Kind { get; init; }

    /// <summary>The directory that is its root.</summary>
    public required string Root { get; init; }

    public bool Connected { get; set; } = true;

    public Instant? LastScan { get; set; }

    public long Version { get; set; } = 1;
}

/// <summary>
/// A folder of the share's first level; files directly in the root lie in the container named <c>.</c>.
/// </summary>
public sealed class Container
{
    public long Id { get; init; }

    public long SourceId { get; init; }

    public required string Name { get; init; }

    public long UnitId { get; set; }

    public long Version { get; set; } = 1;
}

/// <summary>
/// One file with its fields. Its standing under the rules is kept beside it, so that lists and counts are plain
/// queries.
/// </summary>
public sealed class Item
{
    public long Id { get; init; }

    public long ContainerId { get; set; }

    public Container? Container { get; init; }

    /// <summary>Path beneath the source's root, with forward slashes.</summary>
    public required string Path { get; init; }

    /// <summary>How much of its present content a search of words can find.</summary>
    public Searchable Searchable { get; set; }

    /// <summary>Its content was another before, which safekeeping may have.</summary>
    public bool HasFormer { get; set; }

    public required string Title { get; set; }

    /// <summary>Lower-case extension without the dot.</summary>
    public required string Type { get; set; }

    public string? Author { get; set; }

    /// <summary>Who answers for it, as the document itself says.</summary>
    public string? Owner { get; set; }

    /// <summary>What it is about, as events of outside systems refer to it.</summary>
    public string? Subject { get; set; }

    /// <summary>What all messages of one conversation share; null for what is no message.</summary>
    public string? Thread { get; set; }

    /// <summary>Names of a message's attachments, each on a line; null where there are none.</summary>
    public string? Attachments { get; set; }

    public long Bytes { get; set; }

    /// <summary>SHA-256 of the content, lower-case hex.</summary>
    public required string Hash { get; set; }

    public LocalDate Created { get; set; }

    public LocalDate Modified { get; set; }

    /// <summary>
    /// The file's modification time as the last scan saw it; with the size, tells whether it must be read again.
    /// </summary>
    public long ModifiedTicks { get; set; }

    public long? SeriesId { get; set; }

    public LocalDate? FiledOn { get; set; }

    public string? FiledBy { get; set; }

    /// <summary>
    /// The person's id whose decision alone filed it: by hand, by a default that they set or by a rule that they put into
    /// effect. Null where two people agreed.
    /// </summary>
    public long? FiledById { get; set; }

    public Core.Content.FiledHow? FiledHow { get; set; }

    /// <summary>The filing rule that filed it.</summary>
    public long? FilingRuleId { get; set; }

    public LocalDate? ExtendedUntil { get; set; }

    public string? ExtendedBy { get; set; }

    public string? ExtendedWhy { get; set; }

    /// <summary>Code of <see cref="Core.Content.KeepUntil"/>.</summary>
    public int? KeepUntil { get; set; }

    public LocalDate? DisposableFrom { get; set; }

    /// <summary>What may happen then.</summary>
    public Core.Retention.EndAction AtEnd { get; set; }

    /// <summary>
    /// The last change by which it came to be destroyed without sign-off; null where only its rule did. It says something
    /// only while <see cref="AtEnd"/> is that.
    /// </summary>
    public long? DueActId { get; set; }

    /// <summary>The grade that its series gives it.</summary>
    public Core.Content.Grade OwnGrade { get; set; }

    /// <summary>Until when, as a code of <see cref="Core.Content.KeepUntil"/>.</summary>
    public int? OwnGradeUntil { get; set; }

    /// <summary>
    /// Until when a rule that only grows has kept it, or a place that it was moved from, as a code of <see
    /// cref="Core.Content.KeepUntil"/>: nothing brings its keep-until before that.
    /// </summary>
    public int? Floor { get; set; }

    /// <summary>Since when the floor keeps it longer than its rules would; null while they keep it as long.</summary>
    public LocalDate? FlooredOn { get; set; }

    /// <summary>When somebody settled that its rules would keep it for a shorter time; null while nobody did.</summary>
    public LocalDate? FloorSettledOn { get; set; }

    /// <summary>
    /// When a scan saw that a declared record was changed, moved or deleted on its source; null when nobody did, or
    /// somebody settled it.
    /// </summary>
    public LocalDate? AlteredOn { get; set; }

    /// <summary>What was done to it then, as a sentence.</summary>
    public string? AlteredHow { get; set; }

    /// <summary>As <see cref="Core.Retention.DeclaredDates"/> writes them; null where its rule fixes no dates.</summary>
    public string? DeclaredDates { get; set; }

    /// <summary>The open batch the item lies in.</summary>
    public long? BatchId { get; set; }

    /// <summary>When a scan first found the file gone from its place.</summary>
    public Instant? MissingSince { get; set; }

    public Instant? DestroyedAt { get; set; }

    public long? CertificateId { get; set; }

    /// <summary>Its content was handed over to an archive, not only destroyed here.</summary>
    public bool HandedOver { get; set; }
}

/// <summary>The text drawn from an item, up to a limit. Gone with the item's content.</summary>
public sealed class ItemText
{
    public long ItemId { get; init; }

    public required string Text { get; set; }

    /// <summary>Why there is less text than content, in a sentence; null when all of it was read.</summary>
    public string? Limit { get; set; }
}

/// <summary>A date field found in an item, by its name.</summary>
public sealed class ItemDate
{
    public long ItemId { get; init; }

    public required string Name { get; init; }

    public LocalDate Date { get; set; }
}

/// <summary>A field of an item whose value is no date, by its name in lower case.</summary>
public sealed class ItemField
{
    public long ItemId { get; init; }

    public required string Name { get; init; }

    public required string Value { get; set; }
}

/// <summary>
/// How many finds of one sensitive kind an item has, by how sure they are. Where they stand is found anew when the text
/// is shown.
/// </summary>
public sealed class ItemSensitive
{
    public long ItemId { get; init; }

    public required string Kind { get; init; }

    public int Possible { get; set; }

    public int Likely { get; set; }

    public int Certain { get; set; }
}

/// <summary>A sensitive kind that the organisation added.</summary>
public sealed class OwnKind
{
    public long Id { get; init; }

    /// <summary>Lower case with hyphens; as queries name it.</summary>
    public required string Name { get; init; }

    public required string Title { get; set; }

    public required string Pattern { get; set; }

    public Core.Sensitive.Checksum Checksum { get; set; }

    /// <summary>Words that speak of it, each on a line.</summary>
    public required string Nearby { get; set; }

    public long Revision { get; set; } = 1;
}

/// <summary>What a kept search searches.</summary>
public enum ViewPlace
{
    Content,
    Activity,
}

/// <summary>A search that somebody keeps: the query part of its address.</summary>
public sealed class SavedView
{
    public long Id { get; init; }

    public long OwnerId { get; init; }

    public required string Name { get; set; }

    public required string Query { get; set; }

    /// <summary>Everybody may open it; each sees only what they may see.</summary>
    public bool Shared { get; set; }

    public ViewPlace Place { get; init; }

    public long Revision { get; set; } = 1;
}

/// <summary>A copy in safekeeping of one state of an item's content.</summary>
public sealed class ItemCopy
{
    public long ItemId { get; init; }

    public required string Hash { get; init; }

    public long Bytes { get; init; }

    public Instant At { get; init; }

    /// <summary>What the item said of itself while it had this content.</summary>
    public required CopyFacts Facts { get; init; }
}

/// <summary>
/// What an item said of itself while it had a content. A version is searched by its own facts, not by those of what came
/// after it.
/// </summary>
/// <param name="Fields">Date fields in ISO 8601 too.</param>
/// <param name="Kinds">Names of the sensitive kinds found in it.</param>
public sealed record CopyFacts(
    long ContainerId,
    string Path,
    string Type,
    string Title,
    string? Author,
    string? Owner,
    LocalDate Created,
    LocalDate Modified,
    Searchable Searchable,
    IReadOnlyDictionary<string, string> Fields,
    IReadOnlyList<string> Kinds
);

/// <summary>
/// The text of a content in safekeeping, kept when it was read for the first time: another reading gives the same.
/// </summary>
public sealed class CopyText
{
    public required string Hash { get; init; }

    /// <summary>As what it was read, such as <c>eml</c>.</summary>
    public required string Type { get; init; }

    public required string Text { get; init; }
}

/// <summary>A copy in safekeeping that the last verification found to be no longer what it was.</summary>
public sealed class BrokenCopy
{
    public required string Hash { get; init; }

    public required string Fault { get; init; }

    public Instant FoundAt { get; init; }
}

/// <summary>Something a scan could not read, with the reason.</summary>
public sealed class Unreadable
{
    public long Id { get; init; }

    public long SourceId { get; init; }

    public required string Path { get; init; }

    public required string Reason { get; set; }

    public long SeenByScan { get; set; }
}

internal sealed class SourceTable : IEntityTypeConfiguration<Source>
{
    public void Configure(EntityTypeBuilder<Source> table)
    {
        table.ToTable("source").HasIndex(s => s.Root).IsUnique();
        table.Property(s => s.Version).IsConcurrencyToken();
    }
}

internal sealed class ContainerTable : IEntityTypeConfiguration<Container>
{
    public void Configure(EntityTypeBuilder<Container> table)
    {
        table.ToTable("container").HasIndex(c => new { c.SourceId, c.Name }).IsUnique();
        table.Property(c => c.Version).IsConcurrencyToken();
        table.HasOne<Source>().WithMany().HasForeignKey(c => c.SourceId);
        table.HasOne<People.Unit>().WithMany().HasForeignKey(c => c.UnitId);
    }
}

internal sealed class ItemTable : IEntityTypeConfiguration<Item>
{
    public void Configure(EntityTypeBuilder<Item> table)
    {
        table.ToTable("item");
        table.HasOne(i => i.Container).WithMany().HasForeignKey(i => i.ContainerId);
        // A stub keeps its path; a new file may come to lie there.
        // Another file may be created where one was deleted that is known still, because it is held.
        table
            .HasIndex(i => new { i.ContainerId, i.Path })
            .IsUnique()
            .HasFilter("DestroyedAt IS NULL AND MissingSince IS NULL");
        table.HasIndex(i => i.FilingRuleId).HasFilter("FilingRuleId IS NOT NULL");
        table.HasIndex(i => i.DestroyedAt).HasFilter("DestroyedAt IS NOT NULL");
        table.HasIndex(i => i.BatchId);
        table.HasIndex(i => i.Hash);
        table.HasIndex(i => i.Subject);
        table.HasIndex(i => i.Thread);
        CountFromIndexes(table);
        // The few among many that a list asks for.
        table.HasIndex(i => i.Author).HasFilter("Author IS NOT NULL");
        table.HasIndex(i => i.Owner).HasFilter("Owner IS NOT NULL");
        table.HasIndex(i => i.MissingSince).HasFilter("MissingSince IS NOT NULL");
        table.HasIndex(i => i.AlteredOn).HasFilter("AlteredOn IS NOT NULL");
        table.HasIndex(i => i.FlooredOn).HasFilter("FlooredOn IS NOT NULL AND FloorSettledOn IS NULL");
        table.Property(i => i.AtEnd).HasConversion<int>();
        table.Property(i => i.Searchable).HasConversion(s => s.Word(), word => SearchableWords.Of(word));
        table.HasIndex(i => i.HasFormer).HasFilter("HasFormer");
        table.HasIndex(i => i.Searchable).HasFilter("Searchable <> 'whole'");
        table.Property(i => i.OwnGrade).HasConversion<int>();
    }

    /// <summary>
    /// Whatever is counted by series, by what is due, or by state and place is counted from one of these alone: a few
    /// bytes of each item.
    /// </summary>
    private static void CountFromIndexes(EntityTypeBuilder<Item> table)
    {
        table
            .HasIndex(i => new
            {
                i.SeriesId,
                i.DisposableFrom,
                i.BatchId,
                i.DestroyedAt,
                i.KeepUntil,
                i.ContainerId,
                i.Bytes,
                i.Created,
            })
            .HasDatabaseName("IX_item_series");
        table
            .HasIndex(i => new
            {
                i.DisposableFrom,
                i.BatchId,
                i.DestroyedAt,
                i.KeepUntil,
                i.Bytes,
                i.Modified,
                i.ContainerId,
            })
            .HasDatabaseName("IX_item_due");
        table
            .HasIndex(i => new
            {
                i.ContainerId,
                i.DestroyedAt,
                i.KeepUntil,
                i.DisposableFrom,
                i.AtEnd,
                i.HandedOver,
                i.BatchId,
                i.MissingSince,
                i.SeriesId,
                i.Created,
                i.Bytes,
                i.Type,
                i.Owner,
            })
            .HasDatabaseName("IX_item_standing");
    }
}

internal sealed class ItemTextTable : IEntityTypeConfiguration<ItemText>
{
    public void Configure(EntityTypeBuilder<ItemText> table)
    {
        table.ToTable("item_text").HasKey(t => t.ItemId);
        table.Property(t => t.ItemId).ValueGeneratedNever();
        // Not every word of these is known. Without it each text is read to its end, behind which the limit stands.
        table.HasIndex(t => t.ItemId, "IX_item_text_unsearched").HasFilter("\"Limit\" IS NOT NULL OR Text = ''");
    }
}

internal sealed class ItemDateTable : IEntityTypeConfiguration<ItemDate>
{
    public void Configure(EntityTypeBuilder<ItemDate> table) =>
        table.ToTable("item_date").HasKey(d => new { d.ItemId, d.Name });
}

internal sealed class ItemFieldTable : IEntityTypeConfiguration<ItemField>
{
    public void Configure(EntityTypeBuilder<ItemField> table)
    {
        table.ToTable("item_field").HasKey(f => new { f.ItemId, f.Name });
        table.HasIndex(f => f.Name);
    }
}

internal sealed class ItemSensitiveTable : IEntityTypeConfiguration<ItemSensitive>
{
    public void Configure(EntityTypeBuilder<ItemSensitive> table)
    {
        table.ToTable("item_sensitive").HasKey(f => new { f.ItemId, f.Kind });
        table.HasIndex(f => f.Kind);
    }
}

internal sealed class OwnKindTable : IEntityTypeConfiguration<OwnKind>
{
    public void Configure(EntityTypeBuilder<OwnKind> table)
    {
        table.ToTable("own_kind").HasIndex(k => k.Name).IsUnique();
        table.Property(k => k.Revision).IsConcurrencyToken();
    }
}

internal sealed class SavedViewTable : IEntityTypeConfiguration<SavedView>
{
    public void Configure(EntityTypeBuilder<SavedView> table)
    {
        table
            .ToTable("saved_view")
            .HasIndex(v => new
            {
                v.OwnerId,
                v.Place,
                v.Name,
            })
            .IsUnique();
        table.Property(v => v.Revision).IsConcurrencyToken();
        table.HasOne<People.Person>().WithMany().HasForeignKey(v => v.OwnerId);
    }
}

internal sealed class CopyTextTable : IEntityTypeConfiguration<CopyText>
{
    public void Configure(EntityTypeBuilder<CopyText> table) =>
        table.ToTable("copy_text").HasKey(t => new { t.Hash, t.Type });
}

internal sealed class ItemCopyTable : IEntityTypeConfiguration<ItemCopy>
{
    public void Configure(EntityTypeBuilder<ItemCopy> table)
    {
        table.ToTable("item_copy").HasKey(c => new { c.ItemId, c.Hash });
        table.HasIndex(c => new { c.Hash, c.Bytes });
        table.Property(c => c.Facts).IsJson();
    }
}

internal sealed class BrokenCopyTable : IEntityTypeConfiguration<BrokenCopy>
{
    public void Configure(EntityTypeBuilder<BrokenCopy> table) => table.ToTable("broken_copy").HasKey(c => c.Hash);
}

internal sealed class UnreadableTable : IEntityTypeConfiguration<Unreadable>
{
    public void Configure(EntityTypeBuilder<Unreadable> table) =>
        table.ToTable("unreadable").HasIndex(e => new { e.SourceId, e.Path }).IsUnique();
}
