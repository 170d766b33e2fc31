using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace WideKeel.Store.Retention;

/// <summary>
/// A change by which items came to be destroyed without sign-off. Every item that is due so knows the last one, so that
/// none of its persons clears it.
/// </summary>
public sealed class DueAct
{
    public long Id { get; init; }

    public Instant At { get; init; }

    /// <summary>Who acted, as the ledger names them.</summary>
    public required string By { get; init; }

    public List<DueActPerson> Persons { get; init; } = [];
}

/// <summary>Somebody without whom the items would not be due: who acted, or agreed.</summary>
public sealed class DueActPerson
{
    public long ActId { get; init; }

    public long PersonId { get; init; }
}

internal sealed class DueActTable : IEntityTypeConfiguration<DueAct>
{
    public void Configure(EntityTypeBuilder<DueAct> table)
    {
        table.ToTable("due_act");
        table.HasMany(a => a.Persons).WithOne().HasForeignKey(p => p.ActId);
    }
}

internal sealed class DueActPersonTable : IEntityTypeConfiguration<DueActPerson>
{
    public void Configure(EntityTypeBuilder<DueActPerson> table) =>
        table.ToTable("due_act_person").HasKey(p => new { p.ActId, p.PersonId });
}

/// <summary>Whose doing it is that items are destroyed without sign-off.</summary>
public static class DueCauses
{
    /// <summary>Those that would not be due without one of these persons: they filed them, or a change of theirs made
    /// them due.</summary>
    public static IQueryable<Content.Item> CausedBy(
        this IQueryable<Content.Item> items,
        WideKeelDb db,
        IReadOnlyCollection<long> persons
    ) =>
        items.Where(i =>
            (i.FiledById != null && persons.Contains(i.FiledById.Value))
            || (i.DueActId != null && db.DueActPersons.Any(p => p.ActId == i.DueActId && persons.Contains(p.PersonId)))
        );
}
