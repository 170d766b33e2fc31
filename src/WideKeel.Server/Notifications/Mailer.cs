using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using MailKit.Net.Smtp;
using MailKit.Security;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;
using Microsoft.EntityFrameworkCore;
using MimeKit;
using NodaTime;
using WideKeel.Core.Ledger;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Notifications;
using WideKeel.Store.People;

namespace WideKeel.Server.Notifications;

/// <summary>
/// Sends what waits in the outbox, and delivers what waits for other systems. What fails is tried again, later each
/// time.
/// </summary>
public sealed class Mailer(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    MailRoom room,
    IHttpClientFactory http,
    StoredSecrets secrets,
    IClock clock,
    Troubles troubles,
    ILogger<Mailer> log
) : BackgroundService
{
    private const string TroubleKey = "outbox";

    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(1);
    private static readonly Duration[] Waits =
    [
        Duration.FromMinutes(1),
        Duration.FromMinutes(5),
        Duration.FromMinutes(30),
        Duration.FromHours(2),
        Duration.FromHours(6),
        Duration.FromHours(12),
        Duration.FromHours(24),
    ];

    /// <summary>After so many tries it is given up; the list of messages says so and offers another.</summary>
    public static int MostAttempts => Waits.Length + 1;

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Pause);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                await SendAsync(stoppingToken);
                await DeliverAsync(stoppingToken);
                troubles.Clear(TroubleKey);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "The outbox could not be worked through");
                troubles.Report(TroubleKey, "Messages are not sent", e.Message, "/set-up/messages");
            }
        }
    }

    private async Task SendAsync(CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var now = clock.GetCurrentInstant();
        var waiting = await (
            from m in db.Messages.AsNoTracking()
            join p in db.Users on m.PersonId equals p.Id into people
            from p in people.DefaultIfEmpty()
            where m.SentAt == null && !m.Digest && m.NextTryAt <= now && m.Attempts < Waits.Length + 1
            orderby m.Id
            select new
            {
                Message = m,
                DisplayName = m.ToName ?? p.DisplayName,
                Email = m.ToMail ?? p.Email,
            }
        )
            .Take(100)
            .ToListAsync(cancel);
        var organisation =
            waiting.Count == 0 ? null : await db.Organisations.AsNoTracking().SingleOrDefaultAsync(cancel);
        if (organisation is null || !room.CanSend(organisation))
        {
            return;
        }

        foreach (var one in waiting)
        {
            var failure = await room.SendAsync(organisation, one.DisplayName, one.Email!, one.Message, cancel);
            await NoteAsync(
                one.Message.Attempts,
                failure,
                (sent, next) =>
                    db2 =>
                        db2.Messages.Where(m => m.Id == one.Message.Id)
                            .ExecuteUpdateAsync(
                                set =>
                                    set.SetProperty(m => m.SentAt, sent)
                                        .SetProperty(m => m.Secret, m => sent == null ? m.Secret : null)
                                        .SetProperty(m => m.Failure, failure)
                                        .SetProperty(m => m.Attempts, m => m.Attempts + 1)
                                        .SetProperty(m => m.NextTryAt, next),
                                cancel
                            ),
                cancel
            );
            if (failure is not null)
            {
                // A server that is away is away for the next message as well.
                return;
            }
        }
    }

    private async Task DeliverAsync(CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var now = clock.GetCurrentInstant();
        foreach (
            var one in await db
                .Deliveries.AsNoTracking()
                .Include(d => d.Webhook)
                .Where(d =>
                    d.SentAt == null && d.NextTryAt <= now && d.Attempts < Waits.Length + 1 && d.Webhook!.Active
                )
                .OrderBy(d => d.Id)
                .Take(50)
                .ToListAsync(cancel)
        )
        {
            var failure = await PostAsync(one, cancel);
            await NoteAsync(
                one.Attempts,
                failure,
                (sent, next) =>
                    db2 =>
                        db2.Deliveries.Where(d => d.Id == one.Id)
                            .ExecuteUpdateAsync(
                                set =>
                                    set.SetProperty(d => d.SentAt, sent)
                                        .SetProperty(d => d.Failure, failure)
                                        .SetProperty(d => d.Attempts, d => d.Attempts + 1)
                                        .SetProperty(d => d.NextTryAt, next),
                                cancel
                            ),
                cancel
            );
        }
    }

    /// <summary>HMAC-SHA256 (RFC 2104) over the body, in hex, as receivers compare it.</summary>
    public static string Sign(string secret, string body) =>
        Convert.ToHexStringLower(HMACSHA256.HashData(Encoding.UTF8.GetBytes(secret), Encoding.UTF8.GetBytes(body)));

    private async Task<string?> PostAsync(Delivery delivery, CancellationToken cancel)
    {
        try
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, delivery.Webhook!.Url)
            {
                Content = new StringContent(delivery.Body, Encoding.UTF8, "application/json"),
            };
            request.Headers.Add(
                "X-WideKeel-Signature",
                $"sha256={Sign(secrets.Read(delivery.Webhook.Secret), delivery.Body)}"
            );
            request.Headers.Add("X-WideKeel-Delivery", delivery.Id.ToString(CultureInfo.InvariantCulture));
            using var client = http.CreateClient(nameof(Mailer));
            using var answer = await client.SendAsync(request, cancel);
            return answer.IsSuccessStatusCode ? null : "The receiver did not accept it.";
        }
        catch (Exception e) when (e is HttpRequestException or TaskCanceledException && !cancel.IsCancellationRequested)
        {
            return OutboundGuard.Words(e);
        }
        catch (CryptographicException)
        {
            return "The key of the signature cannot be read with the key of this server. Type it again.";
        }
    }

    private async Task NoteAsync(
        int attempts,
        string? failure,
        Func<Instant?, Instant, Func<WideKeelDb, Task>> update,
        CancellationToken cancel
    )
    {
        var now = clock.GetCurrentInstant();
        await writer.RunAsync(
            LedgerActor.Job("mail", null),
            async session =>
                await update(failure is null ? now : null, now + Waits[Math.Min(attempts, Waits.Length - 1)])(
                    session.Db
                ),
            cancel
        );
    }
}

/// <summary>The way to the mail server: the one that is set, or the sink that stands in for it.</summary>
public sealed class MailRoom(MailSink? sink, IDataProtectionProvider protection, IServer server, ILogger<MailRoom> log)
{
    private const int TimeoutMilliseconds = 20_000;

    public MailSink? Sink => sink;

    public bool CanSend(Organisation organisation) => sink is not null || organisation.SmtpHost.Length > 0;

    public string Protect(string secret) => secret.Length == 0 ? "" : Protector.Protect(secret);

    /// <summary>Null when the server took it; otherwise what it said.</summary>
    public async Task<string?> SendAsync(
        Organisation organisation,
        string name,
        string mail,
        Message message,
        CancellationToken cancel
    )
    {
        try
        {
            using var client = new SmtpClient { Timeout = TimeoutMilliseconds };
            if (sink is not null)
            {
                await client.ConnectAsync("127.0.0.1", sink.Port, SecureSocketOptions.None, cancel);
            }
            else
            {
                await client.ConnectAsync(
                    organisation.SmtpHost,
                    organisation.SmtpPort,
                    organisation.SmtpTls ? SecureSocketOptions.StartTls : SecureSocketOptions.None,
                    cancel
                );
                if (organisation.SmtpUser.Length > 0)
                {
                    await client.AuthenticateAsync(
                        organisation.SmtpUser,
                        organisation.SmtpPassword.Length == 0 ? "" : Protector.Unprotect(organisation.SmtpPassword),
                        cancel
                    );
                }
            }

            await client.SendAsync(Write(organisation, name, mail, message), cancel);
            await client.DisconnectAsync(true, cancel);
            return null;
        }
        catch (CryptographicException)
        {
            return "The mail server's password, or the link of this message, cannot be read with the key of this server.";
        }
        catch (SmtpCommandException e)
        {
            // Only what speaks SMTP says this, so it tells nothing about other services.
            return $"The mail server refused it ({(int)e.StatusCode}).";
        }
        catch (AuthenticationException)
        {
            return "The mail server did not accept the user and password.";
        }
        catch (Exception e) when (e is not OperationCanceledException || !cancel.IsCancellationRequested)
        {
            log.LogWarning(e, "A message could not be sent");
            return "The mail server could not be reached, or does not speak SMTP as it is set. The server's log has the details.";
        }
    }

    /// <summary>Where people reach the product.</summary>
    public string AddressOf(Organisation organisation) =>
        (
            organisation.Address.Length > 0
                ? organisation.Address
                : server.Features.Get<IServerAddressesFeature>()?.Addresses.FirstOrDefault() ?? ""
        ).TrimEnd('/');

    private IDataProtector Protector => protection.CreateProtector("mail server");

    private MimeMessage Write(Organisation organisation, string name, string mail, Message message)
    {
        var from = organisation.MailFrom.Length > 0 ? organisation.MailFrom : "wide-keel@localhost.example";
        var text = new MimeMessage { Subject = message.Subject };
        text.From.Add(new MailboxAddress($"Wide Keel, {organisation.Name}", from));
        text.To.Add(new MailboxAddress(name, mail));
        // The same message tried twice is the same mail to the server.
        text.MessageId = string.Create(
            CultureInfo.InvariantCulture,
            $"message-{message.Id}.{message.At.ToUnixTimeMilliseconds()}@widekeel.example"
        );
        text.Date = message.At.ToDateTimeOffset();
        text.Headers.Add("Auto-Submitted", "auto-generated");
        if (message.MatterId is { } matter)
        {
            text.Headers.Add(MailSink.MatterHeader, matter.ToString(CultureInfo.InvariantCulture));
        }

        var body =
            $"{message.Body}\n\nOpen it: {AddressOf(organisation)}{message.Link}\n\nYou get this because {message.Because}.\n";
        if (message.Secret is { } secret)
        {
            body = body.Replace("{secret}", Protector.Unprotect(secret), StringComparison.Ordinal);
            text.Headers.Add(MailSink.SecretHeader, "yes");
        }

        text.Body = new TextPart("plain") { Text = body };
        return text;
    }
}
