using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Matters;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Matters;
using WideKeel.Store.People;

namespace WideKeel.Server.Matters;

/// <summary>
/// Who may enter a matter changes by its own list of members, and by groups, roles and accounts besides. Every such
/// change is an entry of the matter and a message to its leads, and so is a password that somebody else set for a member.
/// </summary>
internal sealed class MatterEntrances : IEntrances, IAccountNews
{
    public async Task<Func<Task>> LookAsync(WriteSession session, CancellationToken cancel)
    {
        var before = await MayEnterAsync(session.Db, cancel);
        return async () =>
        {
            var now = await MayEnterAsync(session.Db, cancel);
            foreach (var (member, part) in now.Where(n => !before.ContainsKey(n.Key)))
            {
                await NoteAsync(session, member, "member-entered", part, "may enter it now", cancel);
            }

            foreach (var (member, part) in now.Where(n => before.TryGetValue(n.Key, out var had) && had != n.Value))
            {
                await NoteAsync(
                    session,
                    member,
                    "member-changed",
                    part,
                    $"is {MatterDoor.Words(part)} of it now",
                    cancel
                );
            }

            foreach (var (member, part) in before.Where(b => !now.ContainsKey(b.Key)))
            {
                await NoteAsync(session, member, "member-left", part, "may no longer enter it", cancel);
            }
        };
    }

    public async Task OnPasswordResetAsync(WriteSession session, Person person, CancellationToken cancel)
    {
        foreach (var (matter, part) in await MembershipOf.MattersAsync(session.Db, person.Id, person.Email ?? ""))
        {
            await NoteAsync(
                session,
                (matter, person.Id),
                "member-password-reset",
                part,
                "has had their password reset by somebody else",
                cancel
            );
        }
    }

    /// <summary>Matter and account → the part held, for all who can sign in.</summary>
    private static async Task<Dictionary<(long Matter, long Person), MemberPart>> MayEnterAsync(
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var people = await db.Users.AsNoTracking().Where(p => p.Active).ToListAsync(cancel);
        Dictionary<(long, long), MemberPart> all = [];
        foreach (var person in people)
        {
            foreach (var (matter, part) in await MembershipOf.MattersAsync(db, person.Id, person.Email ?? ""))
            {
                all[(matter, person.Id)] = part;
            }
        }

        return all;
    }

    private static async Task NoteAsync(
        WriteSession session,
        (long Matter, long Person) member,
        string verb,
        MemberPart part,
        string what,
        CancellationToken cancel
    )
    {
        var name = await session
            .Db.Users.Where(p => p.Id == member.Person)
            .Select(p => p.DisplayName)
            .SingleAsync(cancel);
        var matter = await session.Db.Matters.AsNoTracking().SingleAsync(m => m.Id == member.Matter, cancel);
        session.Record(
            verb,
            MatterDoor.Subject(matter.Id),
            after: new JsonObject { ["member"] = name, ["part"] = part.ToString() }
        );
        var leads = await session
            .Db.Users.Where(p =>
                p.Id != member.Person
                && session.Db.MatterMembers.Any(m =>
                    m.MatterId == matter.Id && m.PersonId == p.Id && m.Part == MemberPart.Lead
                )
            )
            .ToListAsync(cancel);
        foreach (var lead in leads)
        {
            Outbox.Add(
                session,
                lead,
                MatterTexts.Entrance(matter.Number, name, what, session.Actor.Who),
                $"/matters/{MatterDoor.Text(matter.Id)}?tab=members",
                matter.Id
            );
        }
    }
}
