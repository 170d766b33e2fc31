using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Store.People;

namespace WideKeel.Store.Activity;

/// <summary>One intake of activity.</summary>
public sealed class Channel
{
    public long Id { get; init; }

    /// <summary>Lower case with hyphens; events and the archive carry it, so it never changes.</summary>
    public required string Name { get; init; }

    public required string Title { get; set; }

    public required ChannelFeed Feed { get; init; }

    public required EventFormat Format { get; set; }

    /// <summary>Which column of a CSV becomes which field, as JSON; empty for other formats.</summary>
    public string Mapping { get; set; } = "";

    /// <summary>What it admits, as JSON of <see cref="AdmissionRules"/>.</summary>
    public string Admits { get; set; } = "{}";

    /// <summary>For how long an event is kept, counted from its own time, as ISO 8601.</summary>
    public required string Retention { get; set; }

    /// <summary>For how many days events answer from rows; afterwards only sealed files hold them.</summary>
    public int DaysAtHand { get; set; } = 400;

    /// <summary>Hours after the end of a day before it is sealed.</summary>
    public int LatenessHours { get; set; } = 2;

    /// <summary>True: whoever may read activity reads it. False: only its readers.</summary>
    public bool OpenToAnalysts { get; set; } = true;

    /// <summary>SHA-256 of the key by which programs send; null where there is none.</summary>
    public string? KeyHash { get; set; }

    /// <summary>The key's first characters.</summary>
    public string KeyPrefix { get; set; } = "";

    /// <summary>The folder that is watched; empty for other feeds.</summary>
    public string Folder { get; set; } = "";

    /// <summary>The port that syslog comes to; 0 for other feeds.</summary>
    public int Port { get; set; }

    /// <summary>A file in PEM with the certificate and key by which syslog is encrypted; empty for plain TCP.</summary>
    public string CertificateFile { get; set; } = "";

    /// <summary>False takes nothing in; what is there stays.</summary>
    public bool Connected { get; set; } = true;

    public Instant? LastEventAt { get; set; }

    public Instant? LastReceivedAt { get; set; }

    /// <summary>Median of received − time over the last portion, in milliseconds.</summary>
    public long SkewMilliseconds { get; set; }

    public long Taken { get; set; }

    public long Duplicates { get; set; }

    public long NotAdmitted { get; set; }

    public long TooOld { get; set; }

    public long Rejected { get; set; }

    /// <summary>Where reading of the ledger stands; for the ledger's own channel.</summary>
    public long LedgerRead { get; set; }

    public long Version { get; set; } = 1;
}

/// <summary>A person who may read a channel that is not open to all analysts.</summary>
public sealed class ChannelReader
{
    public long Id { get; init; }

    public long ChannelId { get; init; }

    public long PersonId { get; init; }
}

/// <summary>A line that was not taken, with its reason. The last thousand of a channel are kept.</summary>
public sealed class RejectedLine
{
    public long Id { get; init; }

    public long ChannelId { get; init; }

    public Instant At { get; init; }

    /// <summary>In its file, request or connection, from 1.</summary>
    public long Line { get; init; }

    /// <summary>The file, or how it came.</summary>
    public required string From { get; init; }

    public required string Reason { get; init; }

    /// <summary>Its first characters.</summary>
    public required string Beginning { get; init; }
}

/// <summary>How far a watched file was read.</summary>
public sealed class WatchedFile
{
    public long Id { get; init; }

    public long ChannelId { get; init; }

    public required string Path { get; init; }

    /// <summary>Bytes read, up to the end of a line.</summary>
    public long Read { get; set; }

    public long Lines { get; set; }
}

/// <summary>A network that the organisation names.</summary>
public sealed class NetworkRow
{
    public long Id { get; init; }

    public required string Name { get; set; }

    /// <summary>CIDR, with spaces between.</summary>
    public required string Ranges { get; set; }

    public bool Egress { get; set; }
}

/// <summary>Where the addresses of a range are.</summary>
public sealed class PlaceRow
{
    public long Id { get; init; }

    public required string Range { get; init; }

    public required string Country { get; init; }

    public required string Name { get; init; }

    public double? Latitude { get; init; }

    public double? Longitude { get; init; }
}

/// <summary>A code of failed sign-ins that the organisation explains itself, beside those of the catalogue.</summary>
public sealed class SignInCodeRow
{
    public long Id { get; init; }

    public required string Code { get; init; }

    public required string Words { get; set; }

    public required string Next { get; set; }
}

/// <summary>A value that events repeat, kept once for its column.</summary>
public sealed class EventValue
{
    public long Id { get; init; }

    public required string Column { get; init; }

    public required string Value { get; init; }
}

/// <summary>An event at hand. Numbers where a column is coded; see <see cref="EventValue"/>.</summary>
public sealed class EventRow
{
    public long Id { get; init; }

    public long ChannelId { get; init; }

    /// <summary>The channel's name, coded.</summary>
    public long? ChannelName { get; init; }

    public required string SourceId { get; init; }

    public Instant Time { get; init; }

    public Instant Received { get; init; }

    /// <summary>Decides, with the channel, who may read it.</summary>
    public long UnitId { get; init; }

    public long? Actor { get; init; }

    public long? ActorKind { get; init; }

    public long? Category { get; init; }

    public long? Action { get; init; }

    public long? Object { get; init; }

    public long? Container { get; init; }

    public long? Target { get; init; }

    public long? Address { get; init; }

    public long? Network { get; init; }

    public long? Country { get; init; }

    public long? Place { get; init; }

    public double? Latitude { get; init; }

    public double? Longitude { get; init; }

    public long? Device { get; init; }

    public long? Application { get; init; }

    public long? Outcome { get; init; }

    public long? Code { get; init; }

    public double? Amount { get; init; }

    public long? Unit { get; init; }

    public long? Title { get; init; }

    public string? Details { get; init; }

    /// <summary>The sealed file that holds it; null until its day is sealed.</summary>
    public long? SegmentId { get; init; }
}

/// <summary>
/// The line of an event as it came, apart from its row: figures look at many rows and at no line, so rows stay small.
/// </summary>
public sealed class EventOriginal
{
    public long EventId { get; init; }

    public required string Line { get; init; }
}

/// <summary>How many events at hand of a channel, UTC day and unit have a value.</summary>
public sealed class EventDayCount
{
    public long ChannelId { get; init; }

    /// <summary>Days since 1970-01-01.</summary>
    public long Day { get; init; }

    public long UnitId { get; init; }

    /// <summary>Of an <see cref="EventValue"/>, which says of which column.</summary>
    public long ValueId { get; init; }

    public long Events { get; init; }
}

/// <summary>How many events at hand of a channel, UTC hour and unit ended in one way.</summary>
public sealed class EventHourCount
{
    public long ChannelId { get; init; }

    /// <summary>Hours since 1970-01-01.</summary>
    public long Hour { get; init; }

    public long UnitId { get; init; }

    /// <summary>Of an <see cref="EventValue"/>; 0 where the events say nothing of their outcome.</summary>
    public long Outcome { get; init; }

    public long Events { get; init; }
}

/// <summary>A sealed file: the events of one channel and day, or those of them that came late.</summary>
public sealed class Segment
{
    public long Id { get; init; }

    public long ChannelId { get; init; }

    /// <summary>UTC.</summary>
    public LocalDate Day { get; init; }

    /// <summary>0, and 1, 2, … for those that came late.</summary>
    public int Number { get; init; }

    public long Events { get; init; }

    public Instant First { get; init; }

    public Instant Last { get; init; }

    public required byte[] Root { get; init; }

    /// <summary>SHA-256 of the file.</summary>
    public required string FileHash { get; init; }

    public long Bytes { get; init; }

    /// <summary>When the file went, its time being up; its root stays.</summary>
    public Instant? RemovedAt { get; set; }
}

/// <summary>A saved SQL question.</summary>
public sealed class SavedStatement
{
    public long Id { get; init; }

    public long PersonId { get; init; }

    public required string Name { get; set; }

    public required string Sql { get; set; }

    /// <summary>The parameters with their last values, as JSON.</summary>
    public string Parameters { get; set; } = "[]";

    /// <summary>Days up to the run that <c>$from</c> and <c>$before</c> span; null for all time.</summary>
    public int? Days { get; set; }

    /// <summary>How often it is asked by itself; null for never.</summary>
    public StatementRhythm? Rhythm { get; set; }

    public LocalDate? LastRunOn { get; set; }

    /// <summary>What the last run by itself said: a count of new rows, or why there was no answer.</summary>
    public string? LastSaid { get; set; }

    public bool LastFailed { get; set; }

    /// <summary>Of the rows of the last answer the first 16 bytes of their SHA-256, one after the other.</summary>
    public byte[]? SeenRows { get; set; }
}

/// <summary>How often a statement is asked by itself.</summary>
public enum StatementRhythm
{
    Daily,
    Weekly,
    Monthly,
}

/// <summary>A timeline that somebody puts together from events.</summary>
public sealed class Investigation
{
    public long Id { get; init; }

    public required string Name { get; set; }

    public required string Summary { get; set; }

    public long PersonId { get; init; }

    public Instant OpenedAt { get; init; }

    /// <summary>From then on nothing in it changes.</summary>
    public Instant? FrozenAt { get; set; }

    /// <summary>The matter that it is attached to.</summary>
    public long? MatterId { get; set; }

    public List<InvestigationEvent> Events { get; init; } = [];

    public long Version { get; set; } = 1;
}

/// <summary>An investigation that an alert or the finding of an audit rests on; one of the two is named.</summary>
public sealed class InvestigationLink
{
    public long Id { get; init; }

    public long InvestigationId { get; init; }

    public long? AlertId { get; init; }

    public long? FindingId { get; init; }
}

/// <summary>An event of an investigation, as it was when it was pinned.</summary>
public sealed class InvestigationEvent
{
    public long Id { get; init; }

    public long InvestigationId { get; init; }

    public long EventId { get; init; }

    public Instant Time { get; init; }

    /// <summary>The event's RFC 8785 form, from which its leaf is computed.</summary>
    public required string Body { get; init; }

    public string Note { get; set; } = "";
}

internal sealed class ChannelTable : IEntityTypeConfiguration<Channel>
{
    public void Configure(EntityTypeBuilder<Channel> table)
    {
        table.ToTable("channel").HasIndex(c => c.Name).IsUnique();
        table.HasIndex(c => c.KeyHash).IsUnique();
        table.Property(c => c.Version).IsConcurrencyToken();
    }
}

internal sealed class ChannelReaderTable : IEntityTypeConfiguration<ChannelReader>
{
    public void Configure(EntityTypeBuilder<ChannelReader> table)
    {
        table.ToTable("channel_reader").HasIndex(r => new { r.ChannelId, r.PersonId }).IsUnique();
        table.HasOne<Channel>().WithMany().HasForeignKey(r => r.ChannelId);
        table.HasOne<Person>().WithMany().HasForeignKey(r => r.PersonId);
    }
}

internal sealed class RejectedLineTable : IEntityTypeConfiguration<RejectedLine>
{
    public void Configure(EntityTypeBuilder<RejectedLine> table)
    {
        table.ToTable("activity_rejected").HasIndex(r => r.ChannelId);
        table.HasOne<Channel>().WithMany().HasForeignKey(r => r.ChannelId);
    }
}

internal sealed class WatchedFileTable : IEntityTypeConfiguration<WatchedFile>
{
    public void Configure(EntityTypeBuilder<WatchedFile> table)
    {
        table.ToTable("activity_file").HasIndex(f => new { f.ChannelId, f.Path }).IsUnique();
        table.HasOne<Channel>().WithMany().HasForeignKey(f => f.ChannelId);
    }
}

internal sealed class NetworkTable : IEntityTypeConfiguration<NetworkRow>
{
    public void Configure(EntityTypeBuilder<NetworkRow> table) =>
        table.ToTable("network").HasIndex(n => n.Name).IsUnique();
}

internal sealed class PlaceTable : IEntityTypeConfiguration<PlaceRow>
{
    public void Configure(EntityTypeBuilder<PlaceRow> table) =>
        table.ToTable("place").HasIndex(p => p.Range).IsUnique();
}

internal sealed class SignInCodeTable : IEntityTypeConfiguration<SignInCodeRow>
{
    public void Configure(EntityTypeBuilder<SignInCodeRow> table) =>
        table.ToTable("sign_in_code").HasIndex(c => c.Code).IsUnique();
}

internal sealed class EventValueTable : IEntityTypeConfiguration<EventValue>
{
    public void Configure(EntityTypeBuilder<EventValue> table) =>
        table.ToTable("activity_value").HasIndex(v => new { v.Column, v.Value }).IsUnique();
}

internal sealed class EventTable : IEntityTypeConfiguration<EventRow>
{
    public void Configure(EntityTypeBuilder<EventRow> table)
    {
        table.ToTable("activity_event").HasIndex(e => new { e.ChannelId, e.SourceId }).IsUnique();
        table.HasIndex(e => e.Time, EventSql.ByTime);
        table.HasIndex(e => new { e.Actor, e.Time });
        table.HasIndex(e => new { e.Address, e.Time });
        table.HasIndex(e => new { e.Object, e.Time });
        // With what a count and a histogram ask, so that neither looks at the rows.
        table.HasIndex(e => new
        {
            e.Action,
            e.Time,
            e.ChannelId,
            e.UnitId,
            e.Outcome,
        });
        table
            .HasIndex(e => new { e.ChannelId, e.Time }, "IX_activity_event_unsealed")
            .HasFilter("\"SegmentId\" IS NULL");
        table.HasOne<Channel>().WithMany().HasForeignKey(e => e.ChannelId);
    }
}

internal sealed class EventOriginalTable : IEntityTypeConfiguration<EventOriginal>
{
    public void Configure(EntityTypeBuilder<EventOriginal> table)
    {
        table.ToTable("activity_original").HasKey(o => o.EventId);
        table.Property(o => o.EventId).ValueGeneratedNever();
        table
            .HasOne<EventRow>()
            .WithOne()
            .HasForeignKey<EventOriginal>(o => o.EventId)
            .OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class EventDayCountTable : IEntityTypeConfiguration<EventDayCount>
{
    public void Configure(EntityTypeBuilder<EventDayCount> table) =>
        table
            .ToTable("activity_day_count")
            .HasKey(c => new
            {
                c.ChannelId,
                c.Day,
                c.UnitId,
                c.ValueId,
            });
}

internal sealed class EventHourCountTable : IEntityTypeConfiguration<EventHourCount>
{
    public void Configure(EntityTypeBuilder<EventHourCount> table) =>
        table
            .ToTable("activity_hour_count")
            .HasKey(c => new
            {
                c.ChannelId,
                c.Hour,
                c.UnitId,
                c.Outcome,
            });
}

internal sealed class SegmentTable : IEntityTypeConfiguration<Segment>
{
    public void Configure(EntityTypeBuilder<Segment> table)
    {
        table
            .ToTable("segment")
            .HasIndex(s => new
            {
                s.ChannelId,
                s.Day,
                s.Number,
            })
            .IsUnique();
        table.HasOne<Channel>().WithMany().HasForeignKey(s => s.ChannelId);
    }
}

internal sealed class SavedStatementTable : IEntityTypeConfiguration<SavedStatement>
{
    public void Configure(EntityTypeBuilder<SavedStatement> table)
    {
        table.ToTable("statement").HasIndex(s => new { s.PersonId, s.Name }).IsUnique();
        table.HasOne<Person>().WithMany().HasForeignKey(s => s.PersonId);
    }
}

internal sealed class InvestigationTable : IEntityTypeConfiguration<Investigation>
{
    public void Configure(EntityTypeBuilder<Investigation> table)
    {
        table.ToTable("investigation").Property(i => i.Version).IsConcurrencyToken();
        table.HasOne<Person>().WithMany().HasForeignKey(i => i.PersonId);
        table.HasMany(i => i.Events).WithOne().HasForeignKey(e => e.InvestigationId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class InvestigationLinkTable : IEntityTypeConfiguration<InvestigationLink>
{
    public void Configure(EntityTypeBuilder<InvestigationLink> table)
    {
        table
            .ToTable("investigation_link")
            .HasIndex(l => new
            {
                l.InvestigationId,
                l.AlertId,
                l.FindingId,
            })
            .IsUnique();
        table.HasIndex(l => l.AlertId);
        table.HasIndex(l => l.FindingId);
        table.HasOne<Investigation>().WithMany().HasForeignKey(l => l.InvestigationId);
    }
}

internal sealed class InvestigationEventTable : IEntityTypeConfiguration<InvestigationEvent>
{
    public void Configure(EntityTypeBuilder<InvestigationEvent> table) =>
        table.ToTable("investigation_event").HasIndex(e => new { e.InvestigationId, e.EventId }).IsUnique();
}
