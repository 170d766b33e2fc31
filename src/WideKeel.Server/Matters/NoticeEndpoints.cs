using System.Security.Cryptography;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Matters;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Matters;
using WideKeel.Store.People;

namespace WideKeel.Server.Matters;

public sealed record NoticeView(
    long Id,
    int Version,
    NoticeKind Kind,
    string Subject,
    string Body,
    IReadOnlyList<string> Questions,
    int RemindDays,
    int EscalateDays,
    string IssuedBy,
    Instant IssuedAt,
    bool Superseded,
    int Sent,
    int Opened,
    int Acknowledged,
    IReadOnlyList<NoticeCopyView> Copies
);

public sealed record NoticeCopyView(
    long Id,
    long CustodianId,
    string Name,
    Instant SentAt,
    Instant? OpenedAt,
    Instant? AcknowledgedAt,
    IReadOnlyList<string> Answers,
    int Reminders,
    Instant? EscalatedAt
);

/// <param name="Custodians">Ids; empty for all of the matter.</param>
public sealed record NewNotice(
    NoticeKind Kind,
    string Subject,
    string Body,
    IReadOnlyList<string> Questions,
    int RemindDays,
    int EscalateDays,
    IReadOnlyList<long> Custodians
);

/// <summary>A notice as one custodian would read it.</summary>
public sealed record NoticePreview(string To, string Subject, string Body);

/// <summary>A custodian's own page: every notice addressed to them, and nothing else.</summary>
/// <param name="Outstanding">People whose manager this is, who have not acknowledged what was sent to them; only for
/// somebody who is signed in.</param>
public sealed record NoticePage(
    string Name,
    string Organisation,
    string Token,
    IReadOnlyList<NoticeLetter> Notices,
    IReadOnlyList<OutstandingNotice> Outstanding
);

/// <summary>Somebody who has not acknowledged a notice, as their manager learns it: nothing of what it is about.</summary>
/// <param name="Days">Since it was sent.</param>
public sealed record OutstandingNotice(string Name, LocalDate SentOn, int Days);

/// <param name="Superseded">A newer version stands; only that one is answered.</param>
/// <param name="StillBound">It releases, and another matter's notice to the same person still stands.</param>
public sealed record NoticeLetter(
    long Id,
    NoticeKind Kind,
    int Version,
    string Subject,
    string Body,
    IReadOnlyList<string> Questions,
    Instant SentAt,
    Instant? OpenedAt,
    Instant? AcknowledgedAt,
    IReadOnlyList<string> Answers,
    bool Superseded,
    bool StillBound
);

/// <param name="Answers">One for each question, in their order.</param>
public sealed record Acknowledging(IReadOnlyList<string> Answers);

/// <summary>Telling custodians of a hold and of its end, and hearing back.</summary>
public static class NoticeEndpoints
{
    private const int MostQuestions = 10;

    public static void MapNotices(this IEndpointRouteBuilder api)
    {
        api.MapPost("/matters/{id:long}/notices/preview", Preview).RequiresSignIn();
        api.MapPost("/matters/{id:long}/notices", Issue).RequiresSignIn();
        api.MapPost("/matters/{id:long}/notices/copies/{copy:long}/reminder", Remind).RequiresSignIn();
        api.MapGet("/notices", Own).RequiresSignIn();
        // A custodian need not be able to sign in; the key in the address is their own, and opens nothing but their
        // notices.
        api.MapGet("/notices/{token}", Page).OpenToAll();
        api.MapPost("/notices/{token}/{copy:long}/opening", Opened).OpenToAll();
        api.MapPost("/notices/{token}/{copy:long}/acknowledgement", Acknowledge).OpenToAll();
    }

    internal static async Task<List<NoticeView>> ViewsAsync(
        long matter,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var notices = await db
            .Notices.AsNoTracking()
            .Where(n => n.MatterId == matter)
            .OrderByDescending(n => n.Version)
            .ToListAsync(cancel);
        var copies = (
            await db
                .NoticeCopies.AsNoTracking()
                .Include(c => c.Custodian!.Person)
                .Where(c => c.Notice!.MatterId == matter)
                .ToListAsync(cancel)
        ).ToLookup(c => c.NoticeId);
        return
        [
            .. notices.Select(n => new NoticeView(
                n.Id,
                n.Version,
                n.Kind,
                n.Subject,
                n.Body,
                n.Questions,
                n.RemindDays,
                n.EscalateDays,
                n.IssuedBy,
                n.IssuedAt,
                notices.Any(x => x.Version > n.Version),
                copies[n.Id].Count(),
                copies[n.Id].Count(c => c.OpenedAt is not null),
                copies[n.Id].Count(c => c.AcknowledgedAt is not null),
                [
                    .. copies[n.Id]
                        .Select(c => new NoticeCopyView(
                            c.Id,
                            c.CustodianId,
                            c.Custodian!.Person!.Name,
                            c.SentAt,
                            c.OpenedAt,
                            c.AcknowledgedAt,
                            c.Answers,
                            c.Reminders,
                            c.EscalatedAt
                        ))
                        .OrderBy(c => c.Name, StringComparer.OrdinalIgnoreCase),
                ]
            )),
        ];
    }

    /// <summary>Of each custodian of these matters: the copy of the newest version that was sent to them.</summary>
    internal static async Task<List<NoticeCopy>> LatestCopiesAsync(
        WideKeelDb db,
        IReadOnlyCollection<long> matters,
        CancellationToken cancel
    ) =>
        [
            .. (
                await db
                    .NoticeCopies.AsNoTracking()
                    .Include(c => c.Notice)
                    .Include(c => c.Custodian!.Person)
                    .Where(c => matters.Contains(c.Notice!.MatterId))
                    .ToListAsync(cancel)
            )
                .GroupBy(c => c.CustodianId)
                .Select(g => g.MaxBy(c => c.Notice!.Version)!),
        ];

    private static async Task<Refusal?> CheckAsync(
        NewNotice request,
        long matter,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var unknown = NoticeText.UnknownField(request.Subject ?? "") ?? NoticeText.UnknownField(request.Body ?? "");
        var known = await db.Custodians.Where(c => c.MatterId == matter).Select(c => c.Id).ToListAsync(cancel);
        return string.IsNullOrWhiteSpace(request.Subject) || request.Subject.Length > 200
                ? new("subject-missing", "subject", "A notice needs a subject of at most 200 characters.")
            : string.IsNullOrWhiteSpace(request.Body) || request.Body.Length > 20_000
                ? new("body-missing", "body", "A notice needs a text of at most 20,000 characters.")
            : unknown is not null
                ? new(
                    "field-unknown",
                    "body",
                    $"There is no field {unknown}. Known are {string.Join(", ", NoticeText.Fields.Select(f => $"{{{f}}}"))}."
                )
            : request.Questions.Count > MostQuestions
            || request.Questions.Any(q => string.IsNullOrWhiteSpace(q) || q.Length > 300)
                ? new(
                    "questions-malformed",
                    "questions",
                    $"At most {MostQuestions} questions, each of at most 300 characters."
                )
            : request.RemindDays is < 0 or > 365
                ? new("days-out-of-range", "remindDays", "Remind every 1 to 365 days, or 0 for never.")
            : request.EscalateDays is < 0 or > 365
                ? new("days-out-of-range", "escalateDays", "The manager is notified after 1 to 365 days; 0 is never.")
            : known.Count == 0 ? new("no-custodians", "custodians", "The matter has no custodians yet; add them first.")
            : request.Custodians.Any(c => !known.Contains(c)) ? Problems.NotFound("custodian")
            : null;
    }

    private static async Task<Dictionary<string, string>> ValuesAsync(
        WideKeelDb db,
        Matter matter,
        DirectoryPerson person,
        string from,
        CancellationToken cancel
    ) =>
        new()
        {
            ["name"] = person.Name,
            ["matter"] = matter.Name,
            ["number"] = matter.Number,
            ["from"] = from,
            ["organisation"] = await db.Organisations.Select(o => o.Name).SingleAsync(cancel),
        };

    private static async Task<Reply<NoticePreview>> Preview(
        long id,
        NewNotice request,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var found = await MatterDoor.FindAsync(id, caller, db, MemberPart.Reader, cancel);
        if (found.Refusal is { } refusal)
        {
            return refusal;
        }

        if (await CheckAsync(request, id, db, cancel) is { } wrong)
        {
            return wrong;
        }

        var first = await db
            .Custodians.AsNoTracking()
            .Include(c => c.Person)
            .Where(c => c.MatterId == id && (request.Custodians.Count == 0 || request.Custodians.Contains(c.Id)))
            .OrderBy(c => c.Person!.Name)
            .FirstAsync(cancel);
        var values = await ValuesAsync(db, found.Value, first.Person!, caller.Name, cancel);
        return new NoticePreview(
            $"{first.Person!.Name} <{first.Person.Mail}>",
            NoticeText.Fill(request.Subject, values),
            NoticeText.Fill(request.Body, values)
        );
    }

    private static async Task<Notice> AddAsync(WriteSession session, long id, NewNotice request, ApiContext context)
    {
        var last = await session.Db.Notices.Where(n => n.MatterId == id).MaxAsync(n => (int?)n.Version, context.Cancel);
        var notice = new Notice
        {
            MatterId = id,
            Version = (last ?? 0) + 1,
            Kind = request.Kind,
            Subject = request.Subject.Trim(),
            Body = request.Body.Trim(),
            Questions = request.Kind == NoticeKind.Hold ? request.Questions : [],
            RemindDays = request.Kind == NoticeKind.Hold ? request.RemindDays : 0,
            EscalateDays = request.Kind == NoticeKind.Hold ? request.EscalateDays : 0,
            IssuedBy = context.Caller.Name,
            IssuedAt = session.Now,
        };
        session.Db.Notices.Add(notice);
        await session.Db.SaveChangesAsync(context.Cancel);
        return notice;
    }

    private static async Task<Reply<MatterView>> Issue(long id, NewNotice request, [AsParameters] ApiContext context)
    {
        return await MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Lead,
            context,
            async (session, matter) =>
            {
                if (request.Kind == NoticeKind.Hold && matter.State != MatterState.Open)
                {
                    return Refusal.Conflict(
                        "matter-not-open",
                        null,
                        "Nobody gets a new duty in a matter that is being closed."
                    );
                }

                if (await CheckAsync(request, id, session.Db, context.Cancel) is { } wrong)
                {
                    return wrong;
                }

                var notice = await AddAsync(session, id, request, context);
                var custodians = await session
                    .Db.Custodians.Include(c => c.Person)
                    .Where(c =>
                        c.MatterId == id && (request.Custodians.Count == 0 || request.Custodians.Contains(c.Id))
                    )
                    .ToListAsync(context.Cancel);
                foreach (var custodian in custodians)
                {
                    await SendCopyAsync(session, matter, notice, custodian, context.Cancel);
                }

                session.Record(
                    "notice-issued",
                    MatterDoor.Subject(id),
                    after: new JsonObject
                    {
                        ["version"] = notice.Version,
                        ["kind"] = request.Kind.ToString(),
                        ["subject"] = notice.Subject,
                        ["custodians"] = new JsonArray([.. custodians.Select(c => (JsonNode)c.Person!.Name)]),
                    }
                );
                return null;
            }
        );
    }

    private static async Task SendCopyAsync(
        WriteSession session,
        Matter matter,
        Notice notice,
        Custodian custodian,
        CancellationToken cancel
    )
    {
        var copy = new NoticeCopy
        {
            NoticeId = notice.Id,
            CustodianId = custodian.Id,
            SentAt = session.Now,
        };
        session.Db.NoticeCopies.Add(copy);
        await session.Db.SaveChangesAsync(cancel);
        var secret = Link(session, copy, custodian.Person!.Mail);
        var values = await ValuesAsync(session.Db, matter, custodian.Person!, notice.IssuedBy, cancel);
        var bound =
            notice.Kind == NoticeKind.Release
            && await IsBoundBesidesAsync(session.Db, custodian.PersonId, matter.Id, cancel);
        Outbox.Send(
            session,
            custodian.Person!,
            matter.Id,
            new(
                "notice",
                NoticeText.Fill(notice.Subject, values),
                NoticeText.Fill(notice.Body, values) + (bound ? $"\n\n{MatterTexts.StillBound}" : ""),
                "your information is needed in this matter"
            ),
            "/notices/{secret}",
            secret
        );
    }

    /// <summary>A link to a custodian's notices. A hold can last for years; each reminder brings a link of its own.</summary>
    private static string Link(WriteSession session, NoticeCopy copy, string mail) =>
        PersonLinks.Issue(session, (LinkKind.Notice, copy.Id), mail, Duration.FromDays(180));

    private static async Task<Reply<Done>> Remind(
        long id,
        long copy,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await MatterDoor.ChangeAsync<Done>(
            id,
            MemberPart.Reviewer,
            caller,
            writer,
            async (session, matter) =>
            {
                var known = await session
                    .Db.NoticeCopies.Include(c => c.Notice)
                    .Include(c => c.Custodian!.Person)
                    .SingleOrDefaultAsync(c => c.Id == copy && c.Notice!.MatterId == id, cancel);
                if (known is null)
                {
                    return Problems.NotFound("notice");
                }

                if (known.AcknowledgedAt is not null)
                {
                    return Refusal.Conflict(
                        "acknowledged",
                        null,
                        $"{known.Custodian!.Person!.Name} has acknowledged it already."
                    );
                }

                await SendReminderAsync(session, known, matter, cancel);
                session.Record(
                    "notice-reminded",
                    MatterDoor.Subject(id),
                    after: new JsonObject
                    {
                        ["custodian"] = known.Custodian!.Person!.Name,
                        ["version"] = known.Notice!.Version,
                    }
                );
                return new Done();
            },
            cancel
        );

    internal static async Task SendReminderAsync(
        WriteSession session,
        NoticeCopy copy,
        Matter matter,
        CancellationToken cancel
    )
    {
        (copy.RemindedAt, copy.Reminders) = (session.Now, copy.Reminders + 1);
        var person = copy.Custodian!.Person!;
        var values = await ValuesAsync(session.Db, matter, person, copy.Notice!.IssuedBy, cancel);
        var secret = Link(session, copy, person.Mail);
        Outbox.Send(
            session,
            person,
            matter.Id,
            MatterTexts.NoticeReminder(NoticeText.Fill(copy.Notice.Subject, values)),
            "/notices/{secret}",
            secret
        );
    }

    /// <summary>The matters whose notices still ask for something.</summary>
    private static IQueryable<Matter> Asking(WideKeelDb db) =>
        db.Matters.Where(m => m.State == MatterState.Open || m.State == MatterState.Closing);

    /// <summary>Whether a notice of another matter still asks a person to keep something.</summary>
    private static async Task<bool> IsBoundBesidesAsync(
        WideKeelDb db,
        long person,
        long matter,
        CancellationToken cancel
    )
    {
        var others = await db
            .Custodians.Where(c => c.PersonId == person && c.MatterId != matter)
            .Select(c => c.MatterId)
            .Distinct()
            .Where(m => Asking(db).Any(x => x.Id == m))
            .ToListAsync(cancel);
        return (await LatestCopiesAsync(db, others, cancel)).Exists(c =>
            c.Custodian!.PersonId == person && c.Notice!.Kind == NoticeKind.Hold
        );
    }

    /// <summary>Whose notices were brought before their manager and still wait.</summary>
    private static async Task<IReadOnlyList<OutstandingNotice>> OutstandingAsync(
        string manager,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var matters = await db
            .Custodians.Where(c => c.Person!.Manager == manager)
            .Select(c => c.MatterId)
            .Distinct()
            .Where(m => Asking(db).Any(x => x.Id == m))
            .ToListAsync(cancel);
        return
        [
            .. (await LatestCopiesAsync(db, matters, cancel))
                .Where(c =>
                    c is { AcknowledgedAt: null, EscalatedAt: not null, Notice.Kind: NoticeKind.Hold }
                    && c.Custodian!.Person!.Manager == manager
                )
                .OrderBy(c => c.SentAt)
                .Select(c =>
                {
                    var sent = calendar.DateOf(c.SentAt);
                    return new OutstandingNotice(
                        c.Custodian!.Person!.Name,
                        sent,
                        NoticeRules.Outstanding(sent, calendar.Today)
                    );
                }),
        ];
    }

    /// <summary>The notices addressed to whoever is signed in; without any, a page that says so.</summary>
    private static async Task<Reply<NoticePage>> Own(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var person = await db.DirectoryPeople.AsNoTracking().SingleOrDefaultAsync(p => p.Mail == caller.Mail, cancel);
        var page = person is null
            ? new NoticePage(caller.Name, await db.Organisations.Select(o => o.Name).SingleAsync(cancel), "", [], [])
            : await PageAsync(person, db, cancel);
        return page with { Outstanding = await OutstandingAsync(caller.Mail, db, calendar, cancel) };
    }

    private static async Task<Reply<NoticePage>> Page(
        string token,
        PersonLinks links,
        [AsParameters] ApiContext context
    ) =>
        await FindAsync(token, links, context) is var (_, person)
            ? await PageAsync(person, context.Db, context.Cancel) with
            {
                Token = token,
            }
            : Problems.NotFound("notice");

    /// <summary>The custodian whose notices an address opens.</summary>
    private static async Task<(OpenLink Opened, DirectoryPerson Person)?> FindAsync(
        string token,
        PersonLinks links,
        ApiContext context
    ) =>
        await links.OpenAsync(LinkKind.Notice, token, context) is { } opened
        && await context
            .Db.NoticeCopies.AsNoTracking()
            .Where(c => c.Id == opened.SubjectId)
            .Select(c => c.Custodian!.Person)
            .SingleOrDefaultAsync(context.Cancel)
            is { } person
        && string.Equals(person.Mail, opened.Mail, StringComparison.OrdinalIgnoreCase)
            ? (opened, person)
            : null;

    private static async Task<NoticePage> PageAsync(DirectoryPerson person, WideKeelDb db, CancellationToken cancel)
    {
        var copies = await db
            .NoticeCopies.AsNoTracking()
            .Include(c => c.Notice)
            .Where(c =>
                c.Custodian!.PersonId == person.Id
                && db.Matters.Any(m => m.Id == c.Notice!.MatterId && m.State != MatterState.Deleted)
            )
            .ToListAsync(cancel);
        List<NoticeLetter> letters = [];
        foreach (var copy in copies)
        {
            var matter = await db.Matters.AsNoTracking().SingleAsync(m => m.Id == copy.Notice!.MatterId, cancel);
            var values = await ValuesAsync(db, matter, person, copy.Notice!.IssuedBy, cancel);
            letters.Add(
                new(
                    copy.Id,
                    copy.Notice.Kind,
                    copy.Notice.Version,
                    NoticeText.Fill(copy.Notice.Subject, values),
                    NoticeText.Fill(copy.Notice.Body, values),
                    copy.Notice.Questions,
                    copy.SentAt,
                    copy.OpenedAt,
                    copy.AcknowledgedAt,
                    copy.Answers,
                    copies.Any(c =>
                        c.Notice!.MatterId == copy.Notice.MatterId && c.Notice.Version > copy.Notice.Version
                    ),
                    copy.Notice.Kind == NoticeKind.Release
                        && await IsBoundBesidesAsync(db, person.Id, copy.Notice.MatterId, cancel)
                )
            );
        }

        return new(
            person.Name,
            await db.Organisations.Select(o => o.Name).SingleAsync(cancel),
            copies.MaxBy(c => c.Id) is { } newest ? Wording.Id(newest.Id) : "",
            [.. letters.OrderBy(l => l.Superseded).ThenByDescending(l => l.SentAt).ThenByDescending(l => l.Version)],
            []
        );
    }

    private static async Task<Reply<Done>> Opened(
        string token,
        long copy,
        PersonLinks links,
        [AsParameters] ApiContext context
    ) =>
        await OnCopyAsync(
            await FindAsync(token, links, context),
            copy,
            context,
            (session, known, name) =>
            {
                if (known.OpenedAt is null)
                {
                    known.OpenedAt = session.Now;
                    session.Record(
                        "notice-opened",
                        MatterDoor.Subject(known.Notice!.MatterId),
                        after: new JsonObject { ["custodian"] = name, ["version"] = known.Notice.Version }
                    );
                }

                return null;
            }
        );

    /// <summary>A newer version went to the same custodian.</summary>
    private static bool IsSuperseded(NoticeCopy copy, WideKeelDb db) =>
        db.Notices.Any(n =>
            n.MatterId == copy.Notice!.MatterId
            && n.Version > copy.Notice.Version
            && db.NoticeCopies.Any(c => c.NoticeId == n.Id && c.CustodianId == copy.CustodianId)
        );

    private static async Task<Reply<Done>> Acknowledge(
        string token,
        long copy,
        Acknowledging request,
        PersonLinks links,
        [AsParameters] ApiContext context
    )
    {
        var found = await FindAsync(token, links, context);
        return found?.Opened.NotProven is { } unproven
            ? unproven
            : await OnCopyAsync(
                found,
                copy,
                context,
                (session, known, name) => Acknowledged(session, known, name, request)
            );
    }

    private static Refusal? Acknowledged(WriteSession session, NoticeCopy known, string name, Acknowledging request)
    {
        if (known.AcknowledgedAt is not null)
        {
            return null;
        }

        if (
            request.Answers.Count != known.Notice!.Questions.Count
            || request.Answers.Any(a => string.IsNullOrWhiteSpace(a) || a.Length > 2_000)
        )
        {
            return new Refusal(
                "answers-missing",
                "answers",
                "Answer every question, each in at most 2,000 characters."
            );
        }

        if (IsSuperseded(known, session.Db))
        {
            return Refusal.Conflict(
                "notice-superseded",
                null,
                "A newer version of this notice stands; acknowledge that one."
            );
        }

        (known.OpenedAt, known.AcknowledgedAt, known.Answers) = (
            known.OpenedAt ?? session.Now,
            session.Now,
            request.Answers
        );
        session.Record(
            "notice-acknowledged",
            MatterDoor.Subject(known.Notice.MatterId),
            after: new JsonObject
            {
                ["custodian"] = name,
                ["version"] = known.Notice.Version,
                ["answers"] = new JsonArray([.. request.Answers.Select(a => (JsonNode)a)]),
            }
        );
        return null;
    }

    /// <summary>A custodian acts on one of their own notices.</summary>
    private static async Task<Outcome<Done>> OnCopyAsync(
        (OpenLink Opened, DirectoryPerson Person)? found,
        long copy,
        ApiContext context,
        Func<WriteSession, NoticeCopy, string, Refusal?> act
    )
    {
        if (found is not var (opened, person))
        {
            return Problems.NotFound("notice");
        }

        return await context.Writer.RunAsync<Done>(
            opened.ActorNamed(person.Name),
            async session =>
                await session
                    .Db.NoticeCopies.Include(c => c.Notice)
                    .SingleOrDefaultAsync(c => c.Id == copy && c.Custodian!.PersonId == person.Id, context.Cancel)
                    is not { } known
                    ? Problems.NotFound("notice")
                : act(session, known, person.Name) is { } refused ? refused
                : new Done(),
            context.Cancel
        );
    }
}
