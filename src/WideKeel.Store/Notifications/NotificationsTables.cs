using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Notifications;

namespace WideKeel.Store;

/// <content>The tables of notifications.</content>
public sealed partial class WideKeelDb
{
    public DbSet<Message> Messages => Set<Message>();

    public DbSet<Webhook> Webhooks => Set<Webhook>();

    public DbSet<Delivery> Deliveries => Set<Delivery>();
}
