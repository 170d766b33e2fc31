using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.Time;

namespace WideKeel.Store.Content;

/// <summary>The index of holds: an item that an order keeps.</summary>
public sealed class HoldItem
{
    public long ItemId { get; init; }

    public long OrderId { get; init; }

    /// <summary>By hand; a query never takes it off.</summary>
    public bool Pinned { get; set; }

    /// <summary>Released, and protected through this day; null while it is held.</summary>
    public LocalDate? Until { get; set; }

    public long? ReleaseId { get; set; }
}

/// <summary>Which items are held, whoever holds them: by item, for all of them, or as a condition of SQL.</summary>
public static class Holds
{
    /// <summary>A condition over <c>i</c> (item); <c>$today</c> is bound by whoever uses it.</summary>
    public const string HeldSql = $"EXISTS (SELECT 1 FROM hold_item h WHERE h.ItemId = i.Id AND {OnSql})";

    /// <summary>The ids of what is held, for a condition that the holds shall lead.</summary>
    public const string HeldIdsSql = $"SELECT h.ItemId FROM hold_item h WHERE {OnSql}";

    /// <summary>A condition over <c>h</c> (hold_item): <see cref="On"/> in SQL.</summary>
    public const string OnSql = "(h.Until IS NULL OR h.Until >= $today)";

    /// <summary>Holds that protect on a day: in force, or released with the delay still running.</summary>
    public static IQueryable<HoldItem> On(this IQueryable<HoldItem> holds, LocalDate today) =>
        holds.Where(h => h.Until == null || h.Until >= today);

    public static IQueryable<Item> NotHeld(this IQueryable<Item> items, WideKeelDb db, LocalDate today) =>
        items.Where(i => !db.HoldItems.Any(h => h.ItemId == i.Id && (h.Until == null || h.Until >= today)));

    /// <summary>Which of these items are held.</summary>
    public static async Task<HashSet<long>> HeldAsync(WideKeelDb db, IReadOnlyCollection<long> ids, LocalDate today) =>
        [
            .. await db
                .HoldItems.AsNoTracking()
                .On(today)
                .Where(h => ids.Contains(h.ItemId))
                .Select(h => h.ItemId)
                .Distinct()
                .ToListAsync(),
        ];

    /// <summary>All items that are held.</summary>
    public static HashSet<long> All(SqliteConnection connection, LocalDate today)
    {
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT ItemId FROM hold_item WHERE Until IS NULL OR Until >= $today";
        command.Parameters.AddWithValue("$today", today.ToDayNumber());
        using var reader = command.ExecuteReader();
        HashSet<long> held = [];
        while (reader.Read())
        {
            held.Add(reader.GetInt64(0));
        }

        return held;
    }
}

internal sealed class HoldItemTable : IEntityTypeConfiguration<HoldItem>
{
    public void Configure(EntityTypeBuilder<HoldItem> table)
    {
        table.ToTable("hold_item").HasKey(h => new { h.ItemId, h.OrderId });
        // With its end, so that what an order keeps is counted without reading the rows.
        table.HasIndex(h => new
        {
            h.OrderId,
            h.ItemId,
            h.Until,
        });
        // Most holds are in no release; the index is of those that are.
        table.HasIndex(h => h.ReleaseId).HasFilter("ReleaseId IS NOT NULL");
    }
}
