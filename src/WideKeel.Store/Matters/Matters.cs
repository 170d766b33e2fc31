using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.Matters;
using WideKeel.Store.Retention;

namespace WideKeel.Store.Matters;

/// <summary>
/// A dispute, investigation or request that needs information kept and found. Only its members know of it.
/// </summary>
public sealed class Matter
{
    public long Id { get; init; }

    /// <summary>As people speak of it: <c>M-2026-7KQD</c>.</summary>
    public required string Number { get; init; }

    public required string Name { get; set; }

    public string Description { get; set; } = "";

    public MatterKind Kind { get; set; }

    /// <summary>Whose content it may reach.</summary>
    public long UnitId { get; init; }

    public People.Unit? Unit { get; init; }

    public MatterState State { get; set; }

    public required string OpenedBy { get; init; }

    public Instant OpenedAt { get; init; }

    public Instant? ClosedAt { get; set; }

    /// <summary>Days between a release and the first disposal that it permits.</summary>
    public int DelayDays { get; set; } = 30;

    /// <summary>Before the numbers of exported documents; empty numbers none.</summary>
    public string ControlPrefix { get; set; } = "";

    public long NextControl { get; set; } = 1;

    /// <summary>How long its bundles stay.</summary>
    public int BundleDays { get; set; } = 365;

    /// <summary>Who asked for its deletion; another member must agree. Null while nobody has.</summary>
    public long? DeletionAskedById { get; set; }

    public string? DeletionAskedBy { get; set; }

    public string? DeletionWhy { get; set; }

    /// <summary>
    /// Containers that were given to a unit outside the matter's while an order of it was in force: its orders reach them
    /// all the same.
    /// </summary>
    public IReadOnlyList<long> Stays { get; set; } = [];

    public long Revision { get; set; } = 1;

    public List<MatterMember> Members { get; init; } = [];
}

/// <summary>A member: a person, or a group of the directory.</summary>
public sealed class MatterMember
{
    public long Id { get; init; }

    public long MatterId { get; init; }

    public long? PersonId { get; init; }

    public long? GroupId { get; init; }

    public MemberPart Part { get; set; }
}

/// <summary>A person whose information a matter needs.</summary>
public sealed class Custodian
{
    public long Id { get; init; }

    public long MatterId { get; init; }

    public long PersonId { get; init; }

    public People.DirectoryPerson? Person { get; init; }

    /// <summary>Their mailboxes, folders and channels, as chosen from what was found.</summary>
    public IReadOnlyList<long> Containers { get; set; } = [];

    /// <summary>What they wrote or answer for anywhere counts too.</summary>
    public bool Authored { get; set; } = true;

    public required string AddedBy { get; init; }

    public Instant AddedAt { get; init; }
}

/// <summary>
/// A place that was found after somebody had become a custodian and that carries their name. Until a member decides
/// whose it is, it counts as theirs.
/// </summary>
public sealed class FoundPlace
{
    public long CustodianId { get; init; }

    public Custodian? Custodian { get; init; }

    public long ContainerId { get; init; }

    public LocalDate FoundOn { get; init; }

    /// <summary>Null until somebody decides.</summary>
    public bool? IsTheirs { get; set; }
}

public enum NoticeKind
{
    Hold,

    /// <summary>Tells that the duty has ended.</summary>
    Release,
}

/// <summary>What custodians are told. Another version supersedes the one before and is acknowledged anew.</summary>
public sealed class Notice
{
    public long Id { get; init; }

    public long MatterId { get; init; }

    public int Version { get; init; }

    public NoticeKind Kind { get; init; }

    public required string Subject { get; set; }

    /// <summary>With the fields {name}, {matter}, {number}, {organisation}, {from}.</summary>
    public required string Body { get; set; }

    public IReadOnlyList<string> Questions { get; set; } = [];

    /// <summary>Days between reminders; 0 for none.</summary>
    public int RemindDays { get; set; }

    /// <summary>Days after which the manager is told; 0 for never.</summary>
    public int EscalateDays { get; set; }

    public required string IssuedBy { get; init; }

    public Instant IssuedAt { get; init; }
}

/// <summary>A notice on its way to one custodian.</summary>
public sealed class NoticeCopy
{
    public long Id { get; init; }

    public long NoticeId { get; init; }

    public Notice? Notice { get; init; }

    public long CustodianId { get; init; }

    public Custodian? Custodian { get; init; }

    public Instant SentAt { get; init; }

    public Instant? OpenedAt { get; set; }

    public Instant? AcknowledgedAt { get; set; }

    public IReadOnlyList<string> Answers { get; set; } = [];

    public Instant? RemindedAt { get; set; }

    public int Reminders { get; set; }

    public Instant? EscalatedAt { get; set; }
}

/// <summary>A matter's saved search. It keeps nothing.</summary>
public sealed class Sweep
{
    public long Id { get; init; }

    public long MatterId { get; init; }

    public required string Name { get; set; }

    public required HoldDefinition Definition { get; set; }

    public long Revision { get; set; } = 1;
}

public enum RunState
{
    Waiting,
    Running,
    Done,
    Failed,
}

/// <summary>One run of a sweep, with what it found then.</summary>
public sealed class SweepRun
{
    public long Id { get; init; }

    public long SweepId { get; init; }

    public required HoldDefinition Definition { get; init; }

    public required string AskedBy { get; init; }

    public Instant At { get; init; }

    public RunState State { get; set; }

    public long Items { get; set; }

    public long Bytes { get; set; }

    /// <summary>Null until it has run.</summary>
    public SweepFigures? Figures { get; set; }

    public string? Failure { get; set; }
}

/// <param name="Alone">Items in reach and dates that the term finds by itself, as they are now.</param>
/// <param name="Found">Of the sweep's items: those with the term.</param>
/// <param name="Only">Of these: those with no other term.</param>
/// <param name="Documents">Messages and attachments that hold the term themselves.</param>
/// <param name="Families">All documents of the families in which one does.</param>
public sealed record TermFigures(string Term, long Alone, long Found, long Only, long Documents, long Families);

public sealed record PlaceFigures(long Id, string Name, long Items, long Bytes);

/// <param name="Unreadable">Files in the places that were swept of which not every word is known: they could not be
/// opened, are damaged or cut, or have no text.</param>
/// <param name="Added">Against the run before; null for the first.</param>
/// <param name="Versions">Former contents that fit.</param>
/// <param name="OnlyFormer">Of the items: those that fit by a former content and no longer by what they hold now.</param>
public sealed record SweepFigures(
    IReadOnlyList<PlaceFigures> ByContainer,
    IReadOnlyList<PlaceFigures> ByCustodian,
    IReadOnlyList<TermFigures> ByTerm,
    long Documents,
    long Families,
    long Unreadable,
    long? Added,
    long? Gone,
    long Versions = 0,
    long OnlyFormer = 0
);

/// <summary>An item that a run found.</summary>
public sealed class SweepHit
{
    public long RunId { get; init; }

    public long ItemId { get; init; }
}

/// <summary>
/// What fits an item of which a former content fits: which of its contents, and by what. Such items are counted by these
/// rows; all others as they are.
/// </summary>
public sealed class SweepVersionHit
{
    /// <summary>By the whole query.</summary>
    public const int Whole = -1;

    public long RunId { get; init; }

    public long ItemId { get; init; }

    /// <summary>SHA-256 of the former content; empty for what the item holds now.</summary>
    public required string Hash { get; init; }

    /// <summary>A term, by its place among the figures, or <see cref="Whole"/>.</summary>
    public int Term { get; init; }
}

/// <summary>What a matter keeps.</summary>
public sealed class HoldOrder
{
    public long Id { get; init; }

    public long MatterId { get; init; }

    public Matter? Matter { get; init; }

    /// <summary>Within the matter, from 1.</summary>
    public int Number { get; init; }

    public required string Name { get; set; }

    public OrderState State { get; set; }

    /// <summary>What is in force; null in a first draft.</summary>
    public HoldDefinition? InForce { get; set; }

    /// <summary>What is being written; null where nothing is.</summary>
    public HoldDefinition? Draft { get; set; }

    /// <summary>
    /// The containers that the reach meant when it was put in force; null reaches everywhere in the unit.
    /// </summary>
    public IReadOnlyList<long>? Containers { get; set; }

    /// <summary>Names and addresses of its custodians, as author or owner.</summary>
    public IReadOnlyList<string> Names { get; set; } = [];

    public Instant? InForceAt { get; set; }

    public string? InForceBy { get; set; }

    /// <summary>When what existed had been gone through; until then the definition itself protects.</summary>
    public Instant? AppliedAt { get; set; }

    public Instant? ReleasedAt { get; set; }

    public long Revision { get; set; } = 1;
}

/// <summary>The end of a hold order, or of the part that a narrower draft leaves out.</summary>
public sealed class HoldRelease
{
    public long Id { get; init; }

    public long MatterId { get; init; }

    public long OrderId { get; init; }

    /// <summary>What stays in force; null releases all of it.</summary>
    public HoldDefinition? Narrowed { get; init; }

    /// <summary>What was in force before, to be put back where the release is undone.</summary>
    public HoldDefinition? Former { get; set; }

    public required string Why { get; init; }

    public int DelayDays { get; init; }

    public long AskedById { get; init; }

    public required string AskedBy { get; init; }

    public Instant AskedAt { get; init; }

    /// <summary>Of the figures that were shown.</summary>
    public required string Fingerprint { get; init; }

    public ReleaseState State { get; set; }

    public string? DecidedBy { get; set; }

    public Instant? DecidedAt { get; set; }

    public string? DecidedWhy { get; set; }

    /// <summary>The last day on which what it released is protected.</summary>
    public LocalDate? Through { get; set; }

    public long Items { get; set; }
}

/// <summary>What a matter calls what it looks through: responsive, privileged.</summary>
public sealed class MatterTag
{
    public long Id { get; init; }

    public long MatterId { get; init; }

    public required string Name { get; set; }

    /// <summary>Whether what bears it stays out of bundles and stands in their privilege log.</summary>
    public bool Withholds { get; set; }
}

/// <summary>A tag on an item, or on one document of its family.</summary>
public sealed class ItemTag
{
    public long TagId { get; init; }

    public long ItemId { get; init; }

    /// <summary>See <see cref="Code.Document"/>.</summary>
    public int Document { get; init; }

    public string Note { get; set; } = "";

    public required string By { get; set; }

    public Instant At { get; set; }
}

/// <summary>Which items a bundle takes and how it is made.</summary>
/// <param name="RunId">Of a sweep's run; null where an order is exported.</param>
/// <param name="TagId">Only items that bear it, or a document of which does; null takes all.</param>
public sealed record BundleOptions(
    long? RunId,
    long? OrderId,
    bool Mbox,
    bool OnePerContent,
    bool Attachments,
    long? TagId = null
);

/// <summary>An export of a matter.</summary>
public sealed class MatterBundle
{
    public long Id { get; init; }

    public long MatterId { get; init; }

    public required string Name { get; init; }

    public required BundleOptions Options { get; init; }

    /// <summary>Settled when it was asked for, so that a run that was cut off numbers alike.</summary>
    public required string ControlPrefix { get; init; }

    public long FirstControl { get; set; }

    public RunState State { get; set; }

    public required string AskedBy { get; init; }

    public Instant At { get; init; }

    public Instant? MadeAt { get; set; }

    public long Items { get; set; }

    public long Documents { get; set; }

    public long Bytes { get; set; }

    /// <summary>How many items could not be taken in; the bag lists them with the reason.</summary>
    public long Left { get; set; }

    /// <summary>Documents left out because the same content, or the same message, is there already.</summary>
    public long Duplicates { get; set; }

    /// <summary>Documents that a tag keeps out; the privilege log names them.</summary>
    public long Withheld { get; set; }

    /// <summary>SHA-256 of the tag manifest, lower-case hex.</summary>
    public string? Hash { get; set; }

    /// <summary>The day after which it goes.</summary>
    public LocalDate KeepThrough { get; set; }

    public Instant? DeletedAt { get; set; }

    public string? Failure { get; set; }
}

/// <summary>An item of a bundle: which numbers its documents have, and what was written of it so far.</summary>
public sealed class BundleItem
{
    public long BundleId { get; init; }

    public long ItemId { get; init; }

    /// <summary>Control number of its first document.</summary>
    public long FirstControl { get; init; }

    /// <summary>Null until it was written, whole.</summary>
    public IReadOnlyList<BundleDocument>? Documents { get; set; }

    /// <summary>Why it could not be taken in.</summary>
    public string? Left { get; set; }
}

/// <summary>One document of a bundle: a file, a message, or an attachment of one.</summary>
/// <param name="Id">Its control number, or the item's id where documents are not numbered.</param>
/// <param name="Family">That of the message it belongs to; its own where it belongs to none.</param>
/// <param name="File">Path within the bag's data; null where the same content is there already.</param>
/// <param name="DuplicateOf">The document with the same content.</param>
public sealed record BundleDocument(
    string Id,
    string Family,
    string? File,
    string Hash,
    long Bytes,
    string? TextFile,
    string? TextHash,
    string Title,
    string? Author,
    string? To,
    string? MessageId,
    string? DuplicateOf
)
{
    /// <summary>Addresses to which a message was copied.</summary>
    public string? Cc { get; init; }

    public string? Bcc { get; init; }

    /// <summary>The sender's address, as the message says.</summary>
    public string? From { get; init; }

    /// <summary>When a message was sent, ISO 8601 with the zone that it says.</summary>
    public string? Sent { get; init; }

    /// <summary>Why not all of its text is there; null where it is.</summary>
    public string? TextLimit { get; init; }

    /// <summary>The document with the same message id and another content. It is never left out for that.</summary>
    public string? DiffersFrom { get; init; }

    /// <summary>For a content that its item has no more: since when it was kept.</summary>
    public Instant? VersionFrom { get; init; }

    /// <summary>Where such a content lay, and its dates; null for what the item holds now.</summary>
    public DocumentThen? Then { get; init; }

    /// <summary>What lies within its file, where it is a message or an archive.</summary>
    public IReadOnlyList<HeldContent> Holds { get; init; } = [];

    /// <summary>Why it is withheld; null where it is given.</summary>
    public string? Withheld { get; init; }
}

/// <summary>Place and dates of a content that its item has no more.</summary>
public sealed record DocumentThen(long ContainerId, string Path, LocalDate Created, LocalDate Modified);

internal sealed class BundleItemTable : IEntityTypeConfiguration<BundleItem>
{
    public void Configure(EntityTypeBuilder<BundleItem> table)
    {
        table.ToTable("bundle_item").HasKey(i => new { i.BundleId, i.ItemId });
        table.Property(i => i.Documents).IsJson();
    }
}

internal sealed class MatterTable : IEntityTypeConfiguration<Matter>
{
    public void Configure(EntityTypeBuilder<Matter> table)
    {
        table.ToTable("matter").HasIndex(m => m.Number).IsUnique();
        table.HasOne(m => m.Unit).WithMany().HasForeignKey(m => m.UnitId);
        table.HasMany(m => m.Members).WithOne().HasForeignKey(m => m.MatterId);
        table.Property(m => m.Stays).IsJson();
        table.Property(m => m.Revision).IsConcurrencyToken();
    }
}

internal sealed class MatterMemberTable : IEntityTypeConfiguration<MatterMember>
{
    public void Configure(EntityTypeBuilder<MatterMember> table)
    {
        table
            .ToTable("matter_member")
            .HasIndex(m => new
            {
                m.MatterId,
                m.PersonId,
                m.GroupId,
            })
            .IsUnique();
        table.HasIndex(m => m.PersonId);
        table.HasOne<People.Person>().WithMany().HasForeignKey(m => m.PersonId);
        table.HasOne<People.DirectoryGroup>().WithMany().HasForeignKey(m => m.GroupId);
    }
}

internal sealed class CustodianTable : IEntityTypeConfiguration<Custodian>
{
    public void Configure(EntityTypeBuilder<Custodian> table)
    {
        table.ToTable("custodian").HasIndex(c => new { c.MatterId, c.PersonId }).IsUnique();
        table.HasOne<Matter>().WithMany().HasForeignKey(c => c.MatterId);
        table.HasOne(c => c.Person).WithMany().HasForeignKey(c => c.PersonId);
        table.Property(c => c.Containers).IsJson();
    }
}

internal sealed class FoundPlaceTable : IEntityTypeConfiguration<FoundPlace>
{
    public void Configure(EntityTypeBuilder<FoundPlace> table)
    {
        table.ToTable("custodian_found_place").HasKey(p => new { p.CustodianId, p.ContainerId });
        table.HasOne(p => p.Custodian).WithMany().HasForeignKey(p => p.CustodianId);
        table.HasOne<Content.Container>().WithMany().HasForeignKey(p => p.ContainerId);
    }
}

internal sealed class NoticeTable : IEntityTypeConfiguration<Notice>
{
    public void Configure(EntityTypeBuilder<Notice> table)
    {
        table.ToTable("notice").HasIndex(n => new { n.MatterId, n.Version }).IsUnique();
        table.HasOne<Matter>().WithMany().HasForeignKey(n => n.MatterId);
        table.Property(n => n.Questions).IsJson();
    }
}

internal sealed class NoticeCopyTable : IEntityTypeConfiguration<NoticeCopy>
{
    public void Configure(EntityTypeBuilder<NoticeCopy> table)
    {
        table.ToTable("notice_copy").HasIndex(c => new { c.NoticeId, c.CustodianId }).IsUnique();
        table.HasOne(c => c.Notice).WithMany().HasForeignKey(c => c.NoticeId);
        table.HasOne(c => c.Custodian).WithMany().HasForeignKey(c => c.CustodianId);
        table.Property(c => c.Answers).IsJson();
    }
}

internal sealed class SweepTable : IEntityTypeConfiguration<Sweep>
{
    public void Configure(EntityTypeBuilder<Sweep> table)
    {
        table.ToTable("sweep").HasOne<Matter>().WithMany().HasForeignKey(s => s.MatterId);
        table.Property(s => s.Definition).IsJson();
        table.Property(s => s.Revision).IsConcurrencyToken();
    }
}

internal sealed class SweepRunTable : IEntityTypeConfiguration<SweepRun>
{
    public void Configure(EntityTypeBuilder<SweepRun> table)
    {
        table.ToTable("sweep_run").HasOne<Sweep>().WithMany().HasForeignKey(r => r.SweepId);
        table.Property(r => r.Definition).IsJson();
        table.Property(r => r.Figures).IsJson();
    }
}

internal sealed class SweepHitTable : IEntityTypeConfiguration<SweepHit>
{
    public void Configure(EntityTypeBuilder<SweepHit> table) =>
        table.ToTable("sweep_hit").HasKey(h => new { h.RunId, h.ItemId });
}

internal sealed class SweepVersionHitTable : IEntityTypeConfiguration<SweepVersionHit>
{
    public void Configure(EntityTypeBuilder<SweepVersionHit> table) =>
        table
            .ToTable("sweep_version_hit")
            .HasKey(h => new
            {
                h.RunId,
                h.ItemId,
                h.Hash,
                h.Term,
            });
}

internal sealed class HoldOrderTable : IEntityTypeConfiguration<HoldOrder>
{
    public void Configure(EntityTypeBuilder<HoldOrder> table)
    {
        table.ToTable("hold_order").HasIndex(o => new { o.MatterId, o.Number }).IsUnique();
        table.HasIndex(o => o.State);
        table.HasOne(o => o.Matter).WithMany().HasForeignKey(o => o.MatterId);
        table.Property(o => o.InForce).IsJson();
        table.Property(o => o.Draft).IsJson();
        table.Property(o => o.Containers).IsJson();
        table.Property(o => o.Names).IsJson();
        table.Property(o => o.Revision).IsConcurrencyToken();
    }
}

internal sealed class HoldReleaseTable : IEntityTypeConfiguration<HoldRelease>
{
    public void Configure(EntityTypeBuilder<HoldRelease> table)
    {
        table.ToTable("hold_release").HasIndex(r => r.OrderId);
        table.HasOne<HoldOrder>().WithMany().HasForeignKey(r => r.OrderId);
        table.Property(r => r.Narrowed).IsJson();
        table.Property(r => r.Former).IsJson();
    }
}

internal sealed class MatterTagTable : IEntityTypeConfiguration<MatterTag>
{
    public void Configure(EntityTypeBuilder<MatterTag> table)
    {
        table.ToTable("matter_tag").HasIndex(t => new { t.MatterId, t.Name }).IsUnique();
        table.HasOne<Matter>().WithMany().HasForeignKey(t => t.MatterId);
        table.Property(t => t.Name).UseCollation("NOCASE");
    }
}

internal sealed class ItemTagTable : IEntityTypeConfiguration<ItemTag>
{
    public void Configure(EntityTypeBuilder<ItemTag> table)
    {
        table
            .ToTable("matter_item_tag")
            .HasKey(t => new
            {
                t.TagId,
                t.ItemId,
                t.Document,
            });
        table.HasIndex(t => t.ItemId);
        table.HasOne<MatterTag>().WithMany().HasForeignKey(t => t.TagId);
    }
}

internal sealed class MatterBundleTable : IEntityTypeConfiguration<MatterBundle>
{
    public void Configure(EntityTypeBuilder<MatterBundle> table)
    {
        table.ToTable("matter_bundle").HasOne<Matter>().WithMany().HasForeignKey(b => b.MatterId);
        table.Property(b => b.Options).IsJson();
    }
}
