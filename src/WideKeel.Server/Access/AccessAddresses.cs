using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Store;

namespace WideKeel.Server.Access;

/// <summary>
/// Questions to reviewers and to those who might answer for something, and the lines about a person. What is decided stays
/// as it was said, and a frozen report keeps the address of its day.
/// </summary>
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
        await FollowPersonAsync(db, from, to, cancel);
    }

    /// <summary>The lines about a person: a removal that was decided takes the access of the new address.</summary>
    private static async Task FollowPersonAsync(WideKeelDb db, string from, string to, CancellationToken cancel)
    {
        foreach (var line in await db.ReviewLines.Where(l => l.Person == from).ToListAsync(cancel))
        {
            line.Person = to;
            line.Path = JsonSerializer.Serialize(
                JsonSerializer.Deserialize<List<string>>(line.Path)!.Select(id => id == from ? to : id)
            );
            ReviewRounds.Choose(line, Renamed(ReviewRounds.ChosenOf(line), from, to));
            line.Former = JsonSerializer.Serialize(
                ReviewRounds.FormerOf(line).Select(f => f with { Changes = Renamed(f.Changes, from, to) }),
                Json.Options
            );
            line.Version++;
        }
    }

    private static IReadOnlyList<DirectoryChange> Renamed(
        IReadOnlyList<DirectoryChange> changes,
        string from,
        string to
    ) => [.. changes.Select(c => c.Who == from ? c with { Who = to } : c)];
}
