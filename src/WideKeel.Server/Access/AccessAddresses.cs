using Microsoft.EntityFrameworkCore;
using WideKeel.Server.People;
using WideKeel.Store;

namespace WideKeel.Server.Access;

/// <summary>Questions to reviewers and to those who might answer for something. What is decided stays as it was said.</summary>
internal sealed class AccessAddresses : IAddressFollower
{
    public async Task FollowAsync(WideKeelDb db, string from, string to, CancellationToken cancel)
    {
        await db
            .OwnerQuestions.Where(q => q.Person == from)
            .ExecuteUpdateAsync(q => q.SetProperty(x => x.Person, to), cancel);
        await db
            .ReviewLines.Where(l => l.Reviewer == from && l.DecidedAt == null)
            .ExecuteUpdateAsync(l => l.SetProperty(x => x.Reviewer, to), cancel);
        await db
            .ReviewerLinks.Where(l => l.Mail == from)
            .ExecuteUpdateAsync(l => l.SetProperty(x => x.Mail, to), cancel);
    }
}
