using Microsoft.EntityFrameworkCore;

namespace WideKeel.Server.Notifications;

/// <summary>Sends each person one mail for all messages that could wait until the morning.</summary>
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
            ).GroupBy(m => m.PersonId)
        )
        {
            var text = DigestText.Of([.. own.Select(m => (m.Subject, m.Body, address + m.Link))]);
            session.Db.Messages.Add(
                new()
                {
                    PersonId = own.Key,
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
