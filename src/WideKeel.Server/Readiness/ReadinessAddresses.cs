using Microsoft.EntityFrameworkCore;
using WideKeel.Server.People;
using WideKeel.Store;

namespace WideKeel.Server.Readiness;

/// <summary>Acknowledgements, and who answers for policies, controls and their parts.</summary>
internal sealed class ReadinessAddresses : IAddressFollower
{
    public async Task FollowAsync(WideKeelDb db, string from, string to, CancellationToken cancel)
    {
        await db
            .PolicyCopies.Where(c => c.Mail == from)
            .ExecuteUpdateAsync(c => c.SetProperty(x => x.Mail, to), cancel);
        await db.Policies.Where(p => p.Owner == from).ExecuteUpdateAsync(p => p.SetProperty(x => x.Owner, to), cancel);
        await db.Controls.Where(c => c.Owner == from).ExecuteUpdateAsync(c => c.SetProperty(x => x.Owner, to), cancel);
        await db
            .ControlParts.Where(p => p.Doer == from)
            .ExecuteUpdateAsync(p => p.SetProperty(x => x.Doer, to), cancel);
        await db
            .ControlParts.Where(p => p.Deputy == from)
            .ExecuteUpdateAsync(p => p.SetProperty(x => x.Deputy, to), cancel);
        await db
            .RegisterEntries.Where(e => e.Owner == from)
            .ExecuteUpdateAsync(e => e.SetProperty(x => x.Owner, to), cancel);
        await db
            .AuditRequests.Where(r => r.Owner == from)
            .ExecuteUpdateAsync(r => r.SetProperty(x => x.Owner, to), cancel);
    }
}
