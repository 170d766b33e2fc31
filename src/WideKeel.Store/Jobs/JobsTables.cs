using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Jobs;

namespace WideKeel.Store;

/// <content>The tables of jobs.</content>
public sealed partial class WideKeelDb
{
    public DbSet<Job> Jobs => Set<Job>();
}
