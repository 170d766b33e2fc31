using System.Text.Json.Nodes;
using Ical.Net;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Serialization;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Notifications;
using WideKeel.Store.People;

namespace WideKeel.Server.Notifications;

/// <param name="Digest">It goes, or went, with the morning's digest.</param>
public sealed record MessageView(
    long Id,
    string To,
    string Kind,
    string Subject,
    string Link,
    Instant At,
    bool Digest,
    Instant? SentAt,
    int Attempts,
    string? Failure,
    bool GivenUp
);

/// <param name="HasPassword">The password itself is never shown.</param>
/// <param name="ToSink">An in-process mail server stands in; nothing leaves.</param>
public sealed record MailSettingsView(
    string Host,
    int Port,
    bool Tls,
    string User,
    bool HasPassword,
    string From,
    string Address,
    int CertificateYears,
    bool ToSink
);

/// <param name="Password">Null leaves the one that is set.</param>
public sealed record MailSettingsChange(
    string Host,
    int Port,
    bool Tls,
    string User,
    string? Password,
    string From,
    string Address,
    int CertificateYears
);

public sealed record WebhookView(
    long Id,
    string Name,
    string Url,
    bool Active,
    long Sent,
    long Waiting,
    string? LastFailure,
    long Revision
) : IRevised;

/// <param name="Secret">Key of the signature, 16 to 200 characters; null leaves the one that is set.</param>
public sealed record WebhookText(string Name, string Url, string? Secret, bool Active = true);

/// <param name="Path">Of the feed, beneath the product's address; null while there is none.</param>
public sealed record FeedView(string? Path);

/// <summary>What the product tells people and other systems: messages, calendar feeds, signed webhooks.</summary>
public static class NotificationEndpoints
{
    private const int Most = 200;

    public static void MapNotifications(this IEndpointRouteBuilder api)
    {
        api.MapGet("/messages", List).Requires(Right.ManageSettings);
        api.MapPost("/messages/{id:long}/retry", Retry).Requires(Right.ManageSettings);
        api.MapGet("/mail-settings", Settings).Requires(Right.ManageSettings);
        api.MapPut("/mail-settings", Save).Requires(Right.ManageSettings);
        api.MapPost("/mail-settings/test", Test).Requires(Right.ManageSettings);
        api.MapGet("/mail-sink", Sink).Requires(Right.ManageSettings);
        api.MapGet("/mail-sink/{name}", SinkFile).Requires(Right.ManageSettings);
        api.MapGet("/webhooks", Hooks).Requires(Right.ManageSettings);
        api.MapPost("/webhooks", AddHook).Requires(Right.ManageSettings);
        api.MapPut("/webhooks/{id:long}", ChangeHook).Requires(Right.ManageSettings);
        api.MapDelete("/webhooks/{id:long}", RemoveHook).Requires(Right.ManageSettings);
        api.MapGet("/calendar-feed", Feed).RequiresSignIn();
        api.MapPost("/calendar-feed", NewFeed).RequiresSession();
        // Calendars cannot sign in; the key in the address is the person's own, and can be given anew.
        api.MapGet("/calendar/{key}.ics", Calendar).OpenToAll();
    }

    /// <summary>Messages of a matter are for its members, whoever looks after the mail.</summary>
    private static async Task<Reply<IReadOnlyList<MessageView>>> List(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var own = caller.Matters.Keys.ToList();
        return (Outcome<IReadOnlyList<MessageView>>)
            await (
                from m in db.Messages.AsNoTracking()
                join p in db.Users on m.PersonId equals p.Id into people
                from p in people.DefaultIfEmpty()
                where m.MatterId == null || own.Contains(m.MatterId.Value)
                orderby m.Id descending
                select new MessageView(
                    m.Id,
                    m.ToName ?? p.DisplayName,
                    m.Kind,
                    m.Subject,
                    m.Link.Contains("{secret}") ? "" : m.Link,
                    m.At,
                    m.Digest,
                    m.SentAt,
                    m.Attempts,
                    m.Failure,
                    m.SentAt == null && m.Attempts >= Mailer.MostAttempts
                )
            )
                .Take(Most)
                .ToListAsync(cancel);
    }

    private static async Task<Reply<Done>> Retry(long id, Caller caller, Writer writer, CancellationToken cancel) =>
        await writer.RunAsync<Done>(
            caller.Actor,
            async session =>
            {
                var own = caller.Matters.Keys.ToList();
                var changed = await session
                    .Db.Messages.Where(m =>
                        m.Id == id && m.SentAt == null && (m.MatterId == null || own.Contains(m.MatterId.Value))
                    )
                    .ExecuteUpdateAsync(
                        set =>
                            set.SetProperty(m => m.NextTryAt, session.Now)
                                .SetProperty(m => m.Attempts, 0)
                                .SetProperty(m => m.Digest, false),
                        cancel
                    );
                if (changed == 0)
                {
                    return Problems.NotFound("message");
                }

                session.Record("message-retried", new("organisation", "1"), after: new JsonObject { ["message"] = id });
                return new Done();
            },
            cancel
        );

    private static async Task<Reply<MailSettingsView>> Settings(WideKeelDb db, MailRoom room, CancellationToken cancel)
    {
        var o = await db.Organisations.AsNoTracking().SingleAsync(cancel);
        return new MailSettingsView(
            o.SmtpHost,
            o.SmtpPort,
            o.SmtpTls,
            o.SmtpUser,
            o.SmtpPassword.Length > 0,
            o.MailFrom,
            o.Address,
            o.CertificateYears,
            room.Sink is not null
        );
    }

    private static async Task<Reply<MailSettingsView>> Save(
        MailSettingsChange request,
        MailRoom room,
        [AsParameters] ApiContext context
    )
    {
        var wrong = Check(request);
        if (wrong is not null)
        {
            return wrong;
        }

        var saved = await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var o = await session.Db.Organisations.SingleAsync(context.Cancel);
                if (AsksForPassword(o, request) is { } asks)
                {
                    return asks;
                }

                session.Record(
                    "changed",
                    new("organisation", "1"),
                    new JsonObject
                    {
                        ["mailServer"] = o.SmtpHost,
                        ["from"] = o.MailFrom,
                        ["address"] = o.Address,
                        ["certificateYears"] = o.CertificateYears,
                    },
                    new JsonObject
                    {
                        ["mailServer"] = request.Host,
                        ["from"] = request.From,
                        ["address"] = request.Address,
                        ["certificateYears"] = request.CertificateYears,
                    }
                );
                (o.SmtpHost, o.SmtpPort, o.SmtpTls, o.SmtpUser, o.MailFrom, o.Address, o.CertificateYears) = (
                    request.Host!,
                    request.Port,
                    request.Tls,
                    request.User ?? "",
                    request.From!,
                    request.Address!,
                    request.CertificateYears
                );
                o.SmtpPassword = request.Password is null ? o.SmtpPassword : room.Protect(request.Password);
                return new Done();
            },
            context.Cancel
        );
        return saved.Refusal is { } refused ? refused : await Settings(context.Db, room, context.Cancel);
    }

    private static Refusal? Check(MailSettingsChange request) =>
        request.Host is null || request.Host.Length > 253 || request.Host.Any(char.IsWhiteSpace)
            ? new Refusal(
                "host-malformed",
                "host",
                "A mail server is named by its host name or address; leave it empty while there is none."
            )
        : request.Port is < 1 or > 65_535 ? new Refusal("port-out-of-range", "port", "A port is 1 to 65,535.")
        : request.From is null || (request.From.Length > 0 && !Core.People.MailAddress.IsOne(request.From))
            ? new Refusal("from-malformed", "from", "Messages come from a mail address.")
        : request.Host.Length > 0 && request.From.Length == 0
            ? new Refusal("from-malformed", "from", "Say which address messages come from.")
        : request.Address is null || (request.Address.Length > 0 && !IsWeb(request.Address))
            ? new Refusal("address-malformed", "address", "The address begins with http:// or https://.")
        : request.CertificateYears is < 1 or > 100
            ? new Refusal("years-out-of-range", "certificateYears", "Certificates stay for 1 to 100 years.")
        : null;

    /// <summary>A password goes to the server that it was typed for, as safely as then, and to no other.</summary>
    private static Refusal? AsksForPassword(Organisation o, MailSettingsChange request) =>
        o.SmtpPassword.Length > 0
        && request.Password is null
        && (
            request.Host != o.SmtpHost
            || request.Port != o.SmtpPort
            || (request.User ?? "") != o.SmtpUser
            || (o.SmtpTls && !request.Tls)
        )
            ? new(
                "password-needed",
                "password",
                "The server, its port, its user or its encryption changed: type the password again."
            )
            : null;

    /// <summary>A message to oneself, at once, with what the server said.</summary>
    private static async Task<Reply<Done>> Test(
        Caller caller,
        WideKeelDb db,
        MailRoom room,
        IClock clock,
        CancellationToken cancel
    )
    {
        var organisation = await db.Organisations.AsNoTracking().SingleAsync(cancel);
        if (!room.CanSend(organisation))
        {
            return new Refusal(
                "no-mail-server",
                "host",
                "No mail server is set. What waits is kept until there is one."
            );
        }

        var message = new Message
        {
            Kind = "test",
            Subject = "A test from Wide Keel",
            Body = "The mail server took this message.",
            Because = "you asked for a test",
            Link = "/today",
            At = clock.GetCurrentInstant(),
        };
        return await room.SendAsync(organisation, caller.Name, caller.Mail, message, cancel) is { } failure
            ? new Refusal("mail-refused", "host", $"The mail server did not take it: {failure}")
            : new Done();
    }

    private static Reply<IReadOnlyList<SunkMail>> Sink(Caller caller, MailRoom room) =>
        (Outcome<IReadOnlyList<SunkMail>>)
            (room.Sink?.List(Most) ?? []).Where(m => MaySee(m, caller)).Select(m => Shown(m, caller)).ToList();

    /// <summary>What only its addressee may read is not shown to others, although the sink stands in for all their mailboxes.</summary>
    private static SunkMail Shown(SunkMail mail, Caller caller) =>
        !mail.IsPrivate || IsTo(mail, caller)
            ? mail
            : mail with
            {
                Text = "This message holds a link or a code for its addressee. It is not shown to anybody else.",
            };

    private static bool IsTo(SunkMail mail, Caller caller) =>
        mail.To.Contains(caller.Mail, StringComparison.OrdinalIgnoreCase);

    private static bool MaySee(SunkMail mail, Caller caller) =>
        mail.MatterId is not { } matter || caller.Matters.ContainsKey(matter);

    private static IResult SinkFile(string name, Caller caller, MailRoom room) =>
        room.Sink?.FileOf(name) is { } file
        && room.Sink.List(int.MaxValue)
            .Any(m => m.Name == name && MaySee(m, caller) && (!m.IsPrivate || IsTo(m, caller)))
            ? Results.File(file, "message/rfc822", name)
            : (Reply<Done>)Problems.NotFound("mail");

    private static async Task<Reply<IReadOnlyList<WebhookView>>> Hooks(WideKeelDb db, CancellationToken cancel) =>
        (Outcome<IReadOnlyList<WebhookView>>)await Views(db.Webhooks.OrderBy(w => w.Name), db).ToListAsync(cancel);

    private static IQueryable<WebhookView> Views(IQueryable<Webhook> hooks, WideKeelDb db) =>
        hooks
            .AsNoTracking()
            .Select(w => new WebhookView(
                w.Id,
                w.Name,
                w.Url,
                w.Active,
                db.Deliveries.LongCount(d => d.WebhookId == w.Id && d.SentAt != null),
                db.Deliveries.LongCount(d => d.WebhookId == w.Id && d.SentAt == null),
                db.Deliveries.Where(d => d.WebhookId == w.Id && d.SentAt == null)
                    .OrderByDescending(d => d.Id)
                    .Select(d => d.Failure)
                    .FirstOrDefault(),
                w.Revision
            ));

    private static async Task<Reply<WebhookView>> AddHook(
        WebhookText request,
        StoredSecrets secrets,
        Caller caller,
        Writer writer,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var made = await writer.RunAsync<long>(
            caller.Actor,
            async session =>
            {
                if (await CheckAsync(request, null, session.Db, cancel) is { } wrong)
                {
                    return wrong;
                }

                var hook = new Webhook
                {
                    Name = request.Name.Trim(),
                    Url = request.Url,
                    Secret = secrets.Protect(request.Secret!),
                    Active = request.Active,
                };
                session.Db.Webhooks.Add(hook);
                await session.Db.SaveChangesAsync(cancel);
                session.Record(
                    "webhook-added",
                    new("organisation", "1"),
                    after: new JsonObject { ["name"] = hook.Name, ["url"] = hook.Url }
                );
                return hook.Id;
            },
            cancel
        );
        return made.Refused
            ? made.Refusal!
            : await Views(db.Webhooks.Where(w => w.Id == made.Value), db).SingleAsync(cancel);
    }

    private static JsonObject Entry(string name, string url, bool active) =>
        new()
        {
            ["name"] = name,
            ["url"] = url,
            ["active"] = active,
        };

    private static async Task<Reply<WebhookView>> ChangeHook(
        long id,
        WebhookText request,
        StoredSecrets secrets,
        [AsParameters] ApiContext context
    )
    {
        var done = await context.Writer.RunAsync<bool>(
            context.Caller.Actor,
            async session =>
            {
                var hook = await session.Db.Webhooks.SingleOrDefaultAsync(w => w.Id == id, context.Cancel);
                if (hook is null)
                {
                    return Problems.NotFound("webhook");
                }

                var after = request with { Secret = request.Secret ?? secrets.Read(hook.Secret) };
                if (
                    (
                        Problems.CheckMatch(context.Http, hook.Revision)
                        ?? await CheckAsync(after, id, session.Db, context.Cancel)
                    ) is
                    { } wrong
                )
                {
                    return wrong;
                }

                session.Record(
                    "webhook-changed",
                    new("organisation", "1"),
                    Entry(hook.Name, hook.Url, hook.Active),
                    Entry(request.Name, request.Url, request.Active)
                );
                (hook.Name, hook.Url, hook.Secret, hook.Active) = (
                    after.Name.Trim(),
                    after.Url,
                    secrets.Protect(after.Secret!),
                    after.Active
                );
                hook.Revision++;
                // What had been given up is tried anew.
                await session
                    .Db.Deliveries.Where(d => d.WebhookId == id && d.SentAt == null)
                    .ExecuteUpdateAsync(
                        set => set.SetProperty(d => d.Attempts, 0).SetProperty(d => d.NextTryAt, session.Now),
                        context.Cancel
                    );
                return true;
            },
            context.Cancel
        );
        return done.Refused
            ? done.Refusal!
            : await Views(context.Db.Webhooks.Where(w => w.Id == id), context.Db).SingleAsync(context.Cancel);
    }

    private static async Task<Reply<Done>> RemoveHook(
        long id,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<Done>(
            caller.Actor,
            async session =>
            {
                var hook = await session.Db.Webhooks.SingleOrDefaultAsync(w => w.Id == id, cancel);
                if (hook is null)
                {
                    return Problems.NotFound("webhook");
                }

                session.Db.Webhooks.Remove(hook);
                session.Record(
                    "webhook-removed",
                    new("organisation", "1"),
                    new JsonObject { ["name"] = hook.Name, ["url"] = hook.Url }
                );
                return new Done();
            },
            cancel
        );

    private static async Task<Refusal?> CheckAsync(
        WebhookText request,
        long? id,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var name = request.Name?.Trim();
        return string.IsNullOrEmpty(name) || name.Length > 100
                ? new("name-missing", "name", "A webhook needs a name of at most 100 characters.")
            : request.Url is null || !IsWeb(request.Url)
                ? new("url-malformed", "url", "The address begins with http:// or https://.")
            : request.Secret is not { Length: >= 16 and <= 200 }
                ? new("secret-too-short", "secret", "The key of the signature has 16 to 200 characters.")
            : await db.Webhooks.AnyAsync(w => w.Name == name && w.Id != id, cancel)
                ? Refusal.Conflict("code-taken", "name", $"There is a webhook “{name}” already.")
            : null;
    }

    private static bool IsWeb(string text) =>
        text.Length <= 2_000 && Uri.TryCreate(text, UriKind.Absolute, out var uri) && uri.Scheme is "http" or "https";

    private static async Task<Reply<FeedView>> Feed(Caller caller, WideKeelDb db, CancellationToken cancel) =>
        new FeedView(
            PathOf(await db.Users.Where(p => p.Id == caller.PersonId).Select(p => p.CalendarKey).SingleAsync(cancel))
        );

    /// <summary>A new key; the address with the old one is empty from then on.</summary>
    private static async Task<Reply<FeedView>> NewFeed(Caller caller, Writer writer, CancellationToken cancel) =>
        await writer.RunAsync<FeedView>(
            caller.Actor,
            async session =>
            {
                var person = await session.Db.Users.SingleAsync(p => p.Id == caller.PersonId, cancel);
                person.CalendarKey = Convert.ToHexStringLower(
                    System.Security.Cryptography.RandomNumberGenerator.GetBytes(24)
                );
                session.Record(
                    "calendar-feed-renewed",
                    new("person", person.Id.ToString(System.Globalization.CultureInfo.InvariantCulture))
                );
                return new FeedView(PathOf(person.CalendarKey));
            },
            cancel
        );

    private static string? PathOf(string? key) => key is null ? null : $"/api/calendar/{key}.ics";

    /// <summary>
    /// What has a date and waits for this person, as iCalendar (RFC 5545): stages to sign, and the end of grace of what
    /// is due.
    /// </summary>
    private static async Task<IResult> Calendar(
        string key,
        MailRoom room,
        IEnumerable<IDutySource> sources,
        IClock clock,
        [AsParameters] ApiContext context
    )
    {
        var person =
            key.Length < 32
                ? null
                : await context
                    .Db.Users.AsNoTracking()
                    .SingleOrDefaultAsync(p => p.CalendarKey == key && p.Active, context.Cancel);
        if (person is null)
        {
            return (Reply<Done>)Problems.NotFound("calendar");
        }

        var caller = new Caller();
        await caller.LoadAsync(person.Id, context.Db, context.Calendar.Today);
        var organisation = await context.Db.Organisations.AsNoTracking().SingleAsync(context.Cancel);
        DutyQuestion asked = new(caller, context.Db, context.Calendar, context.Cancel);
        var feed = new Ical.Net.Calendar { ProductId = "-//Wide Keel//Calendar feed//EN" };
        feed.AddProperty("X-WR-CALNAME", $"Wide Keel, {organisation.Name}");
        Dictionary<string, CalendarDay> days = [];
        foreach (var source in sources)
        {
            var duties = (await source.OfAsync(asked)).Where(d => d.By is not null);
            // What is a duty in some weeks of its life is a mere day in others; it keeps its key.
            foreach (
                var day in duties
                    .Select(d => new CalendarDay(d.Key, d.By!.Value, d.Title, d.Link))
                    .Concat(await source.DaysAsync(asked))
            )
            {
                days.TryAdd(day.Key, day);
            }
        }

        var stamp = new CalDateTime(clock.GetCurrentInstant().ToDateTimeUtc(), "UTC");
        feed.Events.AddRange(
            days.Values.Select(day => new CalendarEvent
            {
                Uid = $"{day.Key}@widekeel.example",
                DtStamp = stamp,
                Start = new CalDateTime(day.Day.Year, day.Day.Month, day.Day.Day),
                Summary = day.Title,
                Url = Uri.TryCreate(room.AddressOf(organisation) + day.Link, UriKind.Absolute, out var url)
                    ? url
                    : null,
                Transparency = "TRANSPARENT",
            })
        );
        return Results.Text(new CalendarSerializer().SerializeToString(feed)!, "text/calendar");
    }
}
