using Microsoft.EntityFrameworkCore;

namespace WideKeel.Server.Notifications;

/// <summary>
/// Sends each person one mail for all messages that could wait until the morning. Messages of a matter go in one of its
/// own: who looks after the mail without being a member does not read them.
/// </summary>
internal sealed class MorningDigest(MailRoom room) : IDailyTask
{
    public bool IsLast => true;

    public async Task RunAsync(DailyQuestion asked)
    {
        var (session, organisation, _, cancel) = asked;
        var address = room.AddressOf(organisation);
        foreach (
            var own in (
                await session
                    .Db.Messages.Where(m => m.Digest && m.SentAt == null && m.PersonId != null)
                    .OrderBy(m => m.Id)
                    .ToListAsync(cancel)
            ).GroupBy(m => (m.PersonId, m.MatterId))
        )
        {
            var text = DigestText.Of([.. own.Select(m => (m.Subject, m.Body, address + m.Link))]);
            session.Db.Messages.Add(
                new()
                {
                    PersonId = own.Key.PersonId,
                    MatterId = own.Key.MatterId,
                    Kind = text.Kind,
                    Subject = text.Subject,
                    Body = text.Body,
                    Because = text.Because,
                    Link = "/today",
                    At = session.Now,
                    NextTryAt = session.Now,
                }
            );
            foreach (var message in own)
            {
                message.SentAt = session.Now;
            }
        }
    }
}
