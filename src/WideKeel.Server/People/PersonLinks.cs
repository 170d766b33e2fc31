using System.Globalization;
using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>What a link, or the caller's own account, opens.</summary>
/// <param name="SubjectId">The number of what is opened.</param>
/// <param name="Mail">Whose it is.</param>
/// <param name="IsProven">The caller is signed in as that person, or typed the code that was mailed to them.</param>
/// <param name="Actor">Who acts, for the ledger: an account, or the address to which the link went.</param>
public sealed record OpenLink(long SubjectId, string Mail, bool IsProven, LedgerActor Actor)
{
    /// <summary>The actor under the name that the part knows for the address.</summary>
    public LedgerActor ActorNamed(string name) => Actor.Person is null ? Actor with { Who = name } : Actor;

    /// <summary>Why nothing can be decided by it yet, or null.</summary>
    public Refusal? NotProven =>
        IsProven
            ? null
            : Refusal.Forbidden(
                PersonLinks.CodeNeeded,
                "code",
                "Enter the code that was sent to your email address, or sign in."
            );
}

/// <summary>
/// Links by which somebody reads and decides without an account: made for one message, kept as a hash, ended when they
/// expire or their person leaves. A decision asks for a code besides, because a message can be forwarded.
/// </summary>
public sealed class PersonLinks(IClock clock, OrganisationCalendar calendar, WideKeelOptions options)
{
    public const string CodeNeeded = "link-code-needed";

    /// <summary>So long a browser in which the right code was typed may decide.</summary>
    private static readonly Duration BrowserLasts = Duration.FromHours(12);

    private static readonly Duration CodeLasts = Duration.FromMinutes(15);
    private static readonly Duration CodePause = Duration.FromMinutes(1);
    private const int MostWrongCodes = 5;
    private const int ShortestSecret = 32;

    /// <summary>A new link; what it says is in its message only.</summary>
    /// <param name="subject">Its number, which the database has given.</param>
    /// <returns>The secret part of the address.</returns>
    public static string Issue(WriteSession session, (LinkKind Kind, long Subject) what, string mail, Duration lasts)
    {
        var secret = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24));
        session.Db.PersonLinks.Add(
            new()
            {
                Kind = what.Kind,
                SubjectId = what.Subject,
                Mail = mail,
                Hash = ContentHash.Of(secret),
                MadeAt = session.Now,
                ExpiresAt = session.Now + lasts,
            }
        );
        return secret;
    }

    /// <summary>
    /// What an address opens. Somebody who is signed in needs no secret: the number of what is theirs is enough, and the
    /// part whose it is compares the address with theirs.
    /// </summary>
    /// <param name="word">The secret of a link, or a number.</param>
    /// <returns>Null where it opens nothing, whatever the cause.</returns>
    public async Task<OpenLink?> OpenAsync(LinkKind kind, string word, ApiContext context)
    {
        var caller = context.Caller;
        if (word.Length < ShortestSecret)
        {
            return
                caller is { SignedIn: true, ByKey: false }
                && long.TryParse(word, NumberStyles.None, CultureInfo.InvariantCulture, out var own)
                ? new(own, caller.Mail, true, caller.Actor)
                : null;
        }

        var link = await FindAsync(context.Db, word, context.Cancel);
        if (link is null || link.Kind != kind)
        {
            return null;
        }

        var isOwner =
            caller is { SignedIn: true, ByKey: false }
            && string.Equals(caller.Mail, link.Mail, StringComparison.OrdinalIgnoreCase);
        return new(
            link.SubjectId,
            link.Mail,
            isOwner || IsKnownBrowser(link, context.Http),
            isOwner ? caller.Actor : new LedgerActor(link.Mail, null, caller.Address) { Via = "link" }
        );
    }

    /// <summary>The link of a secret while it opens.</summary>
    public async Task<PersonLink?> FindAsync(WideKeelDb db, string secret, CancellationToken cancel)
    {
        var (hash, now) = (ContentHash.Of(secret), clock.GetCurrentInstant());
        var link = await db.PersonLinks.SingleOrDefaultAsync(
            l => l.Hash == hash && l.EndedAt == null && l.ExpiresAt > now,
            cancel
        );
        return link is null || await HasLeftAsync(db, link, cancel) ? null : link;
    }

    private async Task<bool> HasLeftAsync(WideKeelDb db, PersonLink link, CancellationToken cancel)
    {
        var person = await db.DirectoryPeople.AsNoTracking().SingleOrDefaultAsync(p => p.Mail == link.Mail, cancel);
        return person?.HasLeft(calendar.Today) == true;
    }

    /// <summary>Ends every link to one thing.</summary>
    public static Task EndAsync(WriteSession session, LinkKind kind, long subject, CancellationToken cancel) =>
        session
            .Db.PersonLinks.Where(l => l.Kind == kind && l.SubjectId == subject && l.EndedAt == null)
            .ExecuteUpdateAsync(set => set.SetProperty(l => l.EndedAt, session.Now), cancel);

    /// <summary>A new code for a link; the former one is worth nothing.</summary>
    public Outcome<string> NewCode(PersonLink link)
    {
        var now = clock.GetCurrentInstant();
        if (link.CodeSentAt is { } sent && sent + CodePause > now)
        {
            return Refusal.TooMany("code-sent", null, "A code was sent within the last minute. Look for its message.");
        }

        var code = RandomNumberGenerator.GetInt32(1_000_000).ToString("000000", CultureInfo.InvariantCulture);
        (link.CodeHash, link.CodeSentAt, link.WrongCodes) = (HashOf(link, code), now, 0);
        return code;
    }

    /// <summary>Takes a code, once; the browser that typed it keeps what is returned.</summary>
    public Outcome<string> Enter(PersonLink link, string? typed)
    {
        var now = clock.GetCurrentInstant();
        if (link.CodeHash is null || link.CodeSentAt + CodeLasts < now || link.WrongCodes >= MostWrongCodes)
        {
            return new Refusal("code-expired", "code", "This code has expired. Ask for another one.");
        }

        var given = HashOf(link, typed?.Trim() ?? "");
        if (
            !CryptographicOperations.FixedTimeEquals(
                System.Text.Encoding.ASCII.GetBytes(given),
                System.Text.Encoding.ASCII.GetBytes(link.CodeHash)
            )
        )
        {
            link.WrongCodes++;
            return new Refusal("code-wrong", "code", "This is not the code that was sent.");
        }

        var browser = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24));
        (link.CodeHash, link.BrowserHash, link.BrowserUntil) = (null, ContentHash.Of(browser), now + BrowserLasts);
        return browser;
    }

    public string CookieOf(PersonLink link) => options.CookieName($"widekeel-link-{Wording.Id(link.Id)}");

    private bool IsKnownBrowser(PersonLink link, HttpContext http) =>
        link.BrowserHash is { } hash
        && link.BrowserUntil > clock.GetCurrentInstant()
        && http.Request.Cookies.TryGetValue(CookieOf(link), out var kept)
        && ContentHash.Of(kept) == hash;

    private static string HashOf(PersonLink link, string code) => ContentHash.Of($"{link.Hash}:{code}");
}
