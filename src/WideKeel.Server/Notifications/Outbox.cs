using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Disposition;
using WideKeel.Store.Notifications;
using WideKeel.Store.People;

namespace WideKeel.Server.Notifications;

/// <summary>Messages are written in the transaction of what they tell of: no change without its message, no message without its change.</summary>
internal static class Outbox
{
    /// <summary>So many go out by themselves to one person in a day; the rest wait for the morning's digest.</summary>
    public const int MostADay = 5;

    /// <param name="matter">Where it belongs to one: only members see it in the list of messages.</param>
    public static void Add(WriteSession session, Person person, MessageText text, string link, long? matter = null)
    {
        if (!person.Active || string.IsNullOrEmpty(person.Email))
        {
            return;
        }

        var since = session.Now - Duration.FromDays(1);
        var today =
            session.Db.Messages.Count(m => m.PersonId == person.Id && !m.Digest && m.Kind != "digest" && m.At > since)
            + session.Db.Messages.Local.Count(m => m.PersonId == person.Id && m.Id == 0);
        session.Db.Messages.Add(
            new()
            {
                PersonId = person.Id,
                Kind = text.Kind,
                Subject = text.Subject,
                Body = text.Body,
                Because = text.Because,
                Link = link,
                At = session.Now,
                NextTryAt = session.Now,
                Digest = text.Reminds || today >= MostADay,
                MatterId = matter,
            }
        );
    }

    /// <summary>To a person of the directory, who need not be able to sign in. Never held back for a digest: it is a duty's own message.</summary>
    public static void Send(WriteSession session, DirectoryPerson to, long matter, MessageText text, string link) =>
        session.Db.Messages.Add(
            new()
            {
                ToName = to.Name,
                ToMail = to.Mail,
                MatterId = matter,
                Kind = text.Kind,
                Subject = text.Subject,
                Body = text.Body,
                Because = text.Because,
                Link = link,
                At = session.Now,
                NextTryAt = session.Now,
            }
        );

    /// <summary>Tells every connected address of an event.</summary>
    public static void Tell(WriteSession session, string happened, JsonObject data)
    {
        foreach (var hook in session.Db.Webhooks.Where(w => w.Active).ToList())
        {
            var body = new JsonObject
            {
                ["event"] = happened,
                ["at"] = NodaTime.Text.InstantPattern.ExtendedIso.Format(session.Now),
                ["data"] = data.DeepClone(),
            };
            session.Db.Deliveries.Add(
                new()
                {
                    WebhookId = hook.Id,
                    Event = happened,
                    Body = body.ToJsonString(JsonSerializerOptions.Web),
                    At = session.Now,
                    NextTryAt = session.Now,
                }
            );
        }
    }

    /// <summary>Tells those who may sign the stage that waits.</summary>
    /// <param name="actor">Who brought it there, and need not be told.</param>
    public static async Task StageWaitsAsync(
        WriteSession session,
        Batch batch,
        LocalDate by,
        string? signedBefore,
        long actor,
        CancellationToken cancel
    )
    {
        var ruler = batch.Ruler;
        var stage = batch.SignOffs.Count;
        var lines =
            await session.Db.BatchLines.CountAsync(l => l.BatchId == batch.Id, cancel)
            + session.Db.BatchLines.Local.Count(l =>
                l.BatchId == batch.Id && session.Db.Entry(l).State == EntityState.Added
            );
        foreach (
            var person in (await SignersAsync(session.Db, batch, deputies: false, cancel)).Where(p => p.Id != actor)
        )
        {
            Add(
                session,
                person,
                Texts.StageWaits(ruler.Code, ruler.Title, lines, stage + 1, ruler.Stages.Count, by, signedBefore),
                $"/schedule/docket?batch={batch.Id}"
            );
        }

        Tell(
            session,
            signedBefore is null ? "batch-opened" : "batch-signed",
            new()
            {
                ["batch"] = batch.Id,
                ["series"] = ruler.Code,
                ["title"] = ruler.Title,
                ["items"] = lines,
                ["stage"] = stage + 1,
                ["of"] = ruler.Stages.Count,
            }
        );
    }

    /// <summary>Who may sign the stage that waits: the named person or, with none, all who hold its role over the unit and have not signed yet.</summary>
    public static async Task<List<Person>> SignersAsync(
        WideKeelDb db,
        Batch batch,
        bool deputies,
        CancellationToken cancel
    )
    {
        var stages = batch.Ruler.Stages;
        if (batch.SignOffs.Count >= stages.Count)
        {
            return [];
        }

        var stage = stages[batch.SignOffs.Count];
        var unit = new UnitPath(
            await db.Units.Where(u => u.Id == batch.Ruler.UnitId).Select(u => u.Path).SingleAsync(cancel)
        );
        var people = await db
            .Users.Include(p => p.Remits)
                .ThenInclude(r => r.Unit)
            .Where(p => p.Active && p.Remits.Any(r => r.Role == stage.Role))
            .ToListAsync(cancel);
        var named = deputies ? stage.Deputy : stage.Person;
        return named.Length == 0 && deputies
            ? []
            :
            [
                .. people.Where(p =>
                    p.Remits.Any(r => r.Role == stage.Role && new UnitPath(r.Unit!.Path).Covers(unit))
                    && batch.SignOffs.All(s => s.PersonId != p.Id)
                    && (named.Length == 0 || string.Equals(p.Email, named, StringComparison.OrdinalIgnoreCase))
                ),
            ];
    }
}
