using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Ledger;

namespace WideKeel.Store;

/// <content>The tables of the ledger.</content>
public sealed partial class WideKeelDb
{
    public DbSet<LedgerRow> Ledger => Set<LedgerRow>();
}
