using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Content;

namespace WideKeel.Store;

/// <content>The tables of content.</content>
public sealed partial class WideKeelDb
{
    public DbSet<Source> Sources => Set<Source>();

    public DbSet<Container> Containers => Set<Container>();

    public DbSet<Item> Items => Set<Item>();

    public DbSet<ItemText> ItemTexts => Set<ItemText>();

    public DbSet<ItemDate> ItemDates => Set<ItemDate>();

    public DbSet<ItemField> ItemFields => Set<ItemField>();

    public DbSet<HoldItem> HoldItems => Set<HoldItem>();

    public DbSet<ItemCopy> ItemCopies => Set<ItemCopy>();

    public DbSet<CopyText> CopyTexts => Set<CopyText>();

    public DbSet<BrokenCopy> BrokenCopies => Set<BrokenCopy>();

    public DbSet<ItemSensitive> ItemSensitives => Set<ItemSensitive>();

    public DbSet<OwnKind> OwnKinds => Set<OwnKind>();

    public DbSet<SavedView> SavedViews => Set<SavedView>();

    public DbSet<Unreadable> Unreadables => Set<Unreadable>();
}
