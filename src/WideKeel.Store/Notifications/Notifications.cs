using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace WideKeel.Store.Notifications;

/// <summary>Something that a person is told by mail: written with the change it tells of, sent afterwards.</summary>
public sealed class Message
{
    public long Id { get; init; }

    /// <summary>Who is told; null where it goes to somebody who cannot sign in, by <see cref="ToMail"/>.</summary>
    public long? PersonId { get; init; }

    public string? ToName { get; init; }

    public string? ToMail { get; init; }

    /// <summary>It belongs to a matter: only members see it in the list.</summary>
    public long? MatterId { get; init; }

    /// <summary>Which event it tells of: <c>batch-opened</c>.</summary>
    public required string Kind { get; init; }

    public required string Subject { get; init; }

    /// <summary>What happened, in plain sentences.</summary>
    public required string Body { get; init; }

    /// <summary>Why this person is told.</summary>
    public required string Because { get; init; }

    /// <summary>The one thing to do, as a path of the interface.</summary>
    public required string Link { get; init; }

    /// <summary>
    /// What stands for <c>{secret}</c> in body and link, protected by the product's keys, until the message is sent; null
    /// then, and where there is none.
    /// </summary>
    public string? Secret { get; set; }

    public Instant At { get; init; }

    /// <summary>It waits for the morning's digest instead of going out by itself.</summary>
    public bool Digest { get; set; }

    public int Attempts { get; set; }

    /// <summary>Not tried before then.</summary>
    public Instant NextTryAt { get; set; }

    public Instant? SentAt { get; set; }

    /// <summary>What the mail server said the last time; null after it was taken.</summary>
    public string? Failure { get; set; }
}

/// <summary>An address outside that is told of events, each signed.</summary>
public sealed class Webhook
{
    public long Id { get; init; }

    public required string Name { get; set; }

    public required string Url { get; set; }

    /// <summary>Key of the signature, HMAC-SHA256.</summary>
    public required string Secret { get; set; }

    public bool Active { get; set; } = true;

    public long Revision { get; set; } = 1;
}

/// <summary>One event on its way to one address.</summary>
public sealed class Delivery
{
    public long Id { get; init; }

    public long WebhookId { get; init; }

    public Webhook? Webhook { get; init; }

    public required string Event { get; init; }

    /// <summary>The JSON as it is sent, and signed.</summary>
    public required string Body { get; init; }

    public Instant At { get; init; }

    public int Attempts { get; set; }

    public Instant NextTryAt { get; set; }

    public Instant? SentAt { get; set; }

    public string? Failure { get; set; }
}

internal sealed class MessageTable : IEntityTypeConfiguration<Message>
{
    public void Configure(EntityTypeBuilder<Message> table)
    {
        table.ToTable("message").HasOne<People.Person>().WithMany().HasForeignKey(m => m.PersonId);
        table.HasIndex(m => new { m.SentAt, m.NextTryAt });
    }
}

internal sealed class WebhookTable : IEntityTypeConfiguration<Webhook>
{
    public void Configure(EntityTypeBuilder<Webhook> table)
    {
        table.ToTable("webhook").HasIndex(w => w.Name).IsUnique();
        table.Property(w => w.Revision).IsConcurrencyToken();
    }
}

internal sealed class DeliveryTable : IEntityTypeConfiguration<Delivery>
{
    public void Configure(EntityTypeBuilder<Delivery> table)
    {
        table
            .ToTable("delivery")
            .HasOne(d => d.Webhook)
            .WithMany()
            .HasForeignKey(d => d.WebhookId)
            .OnDelete(DeleteBehavior.Cascade);
        table.HasIndex(d => new { d.SentAt, d.NextTryAt });
    }
}
