using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Disposition;

namespace WideKeel.Store;

/// <content>The tables of disposition.</content>
public sealed partial class WideKeelDb
{
    public DbSet<Batch> Batches => Set<Batch>();

    public DbSet<BatchLine> BatchLines => Set<BatchLine>();

    public DbSet<SignOff> SignOffs => Set<SignOff>();

    public DbSet<Question> Questions => Set<Question>();

    public DbSet<Bundle> Bundles => Set<Bundle>();

    public DbSet<Certificate> Certificates => Set<Certificate>();
}
