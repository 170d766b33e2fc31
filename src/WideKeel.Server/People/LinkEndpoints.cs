using WideKeel.Core;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <param name="Mail">Where the code went, with most of its letters left out.</param>
public sealed record CodeSent(string Mail);

public sealed record LinkCode(string Code);

/// <summary>The code by which the holder of a link proves that its message is theirs.</summary>
public static class LinkEndpoints
{
    public static void MapLinks(this IEndpointRouteBuilder api)
    {
        api.MapPost("/links/{token}/code", Send).OpenToAll().LimitsAttempts();
        api.MapPost("/links/{token}/entrance", Enter).OpenToAll().LimitsAttempts();
    }

    private static async Task<Reply<CodeSent>> Send(
        string token,
        PersonLinks links,
        [AsParameters] ApiContext context
    ) =>
        await context.Writer.RunAsync<CodeSent>(
            context.Caller.Actor,
            async session =>
            {
                if (await FindAsync(session, token, links, context) is not { } link)
                {
                    return Problems.NotFound("link; it may have expired");
                }

                var code = links.NewCode(link);
                if (code.Refusal is { } refusal)
                {
                    return refusal;
                }

                foreach (var news in session.Services.GetServices<IAccountNews>())
                {
                    await news.OnLinkCodeAsync(session, link, code.Value, context.Cancel);
                }

                session.Record("link-code-sent", new("link", Wording.Id(link.Id)), reason: $"for {link.Mail}");
                return new CodeSent(Masked(link.Mail));
            },
            context.Cancel
        );

    private static async Task<Reply<Done>> Enter(
        string token,
        LinkCode request,
        PersonLinks links,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    )
    {
        // A wrong code is counted, so the change is written and its refusal given afterwards.
        var entered = await context.Writer.RunAsync<(PersonLink Link, Outcome<string> Browser)>(
            context.Caller.Actor,
            async session =>
            {
                if (await FindAsync(session, token, links, context) is not { } link)
                {
                    return Problems.NotFound("link; it may have expired");
                }

                var browser = links.Enter(link, request.Code);
                session.Record(
                    browser.Refused ? "link-code-refused" : "link-code-accepted",
                    new("link", Wording.Id(link.Id)),
                    reason: $"for {link.Mail}"
                );
                return (link, browser);
            },
            context.Cancel
        );
        if ((entered.Refusal ?? entered.Value.Browser.Refusal) is { } refusal)
        {
            return refusal;
        }

        context.Http.Response.Cookies.Append(
            links.CookieOf(entered.Value.Link),
            entered.Value.Browser.Value,
            new()
            {
                HttpOnly = true,
                SameSite = SameSiteMode.Strict,
                Secure = options.IsSecure || context.Http.Request.IsHttps,
                Path = "/",
                IsEssential = true,
            }
        );
        return new Done();
    }

    private static async Task<PersonLink?> FindAsync(
        WriteSession session,
        string token,
        PersonLinks links,
        ApiContext context
    ) =>
        await links.FindAsync(session.Db, token, context.Cancel) is { Kind: not LinkKind.Invitation } link
            ? link
            : null;

    private static string Masked(string mail) =>
        mail.IndexOf('@', StringComparison.Ordinal) is > 0 and var at ? $"{mail[0]}…{mail[at..]}" : "…";
}
