using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Store;
using WideKeel.Store.Notifications;
using WideKeel.Store.People;

namespace WideKeel.Server.Notifications;

/// <summary>
/// Messages are written in the transaction of what they tell of: no change without its message, no message without its
/// change.
/// </summary>
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

    /// <summary>
    /// To a person of the directory, who need not be able to sign in. Never held back for a digest: it is a duty's own
    /// message.
    /// </summary>
    /// <param name="secret">
    /// Stands for <c>{secret}</c> in the text and the link when the message is sent; kept protected until then, and shown in
    /// no list.
    /// </param>
    public static void Send(
        WriteSession session,
        DirectoryPerson to,
        long? matter,
        MessageText text,
        string link,
        string? secret = null
    ) =>
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
                Secret = secret is null ? null : session.Services.GetRequiredService<MailRoom>().Protect(secret),
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
}
