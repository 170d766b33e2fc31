using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;

namespace WideKeel.Store;

/// <summary>Lets the migration tool make a context; the file is never opened.</summary>
internal sealed class DesignTime : IDesignTimeDbContextFactory<WideKeelDb>
{
    public WideKeelDb CreateDbContext(string[] args)
    {
        var options = new DbContextOptionsBuilder<WideKeelDb>();
        options.UseWideKeel("design-time.db");
        return new WideKeelDb(options.Options);
    }
}
