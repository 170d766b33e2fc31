using System.Security.Claims;
using System.Security.Cryptography;
using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Authentication;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using NodaTime;
using WideKeel.Core.Ledger;
using WideKeel.Store;

namespace WideKeel.Server.Kernel;

/// <summary>
/// Programs sign in with <c>Authorization: Bearer wk_…</c>. Keys are random, so their plain SHA-256 is enough to keep.
/// </summary>
public sealed class ApiKeyAuthentication(
    IOptionsMonitor<AuthenticationSchemeOptions> options,
    ILoggerFactory logger,
    UrlEncoder encoder,
    WideKeelDb db,
    IClock clock
) : AuthenticationHandler<AuthenticationSchemeOptions>(options, logger, encoder)
{
    public const string SchemeName = "ApiKey";
    private const string Beginning = "Bearer wk_";

    /// <summary>Before the key by which a program sends events to a channel; such a key opens nothing else.</summary>
    private const string ChannelBeginning = "Bearer wc_";

    public static bool IsOffered(HttpRequest request) =>
        request.Headers.Authorization.ToString() is var offered
        && (
            offered.StartsWith(Beginning, StringComparison.Ordinal)
            || offered.StartsWith(ChannelBeginning, StringComparison.Ordinal)
        );

    /// <summary>The SHA-256 of the channel's key that a request brings; null where it brings none.</summary>
    public static string? ChannelKeyHash(HttpRequest request) =>
        request.Headers.Authorization.ToString() is var offered
        && offered.StartsWith(ChannelBeginning, StringComparison.Ordinal)
            ? HashOf(offered["Bearer ".Length..])
            : null;

    /// <summary>Whether a request brings the key of a channel that exists.</summary>
    public static async Task<bool> IsOfChannelAsync(HttpContext http)
    {
        var hash = ChannelKeyHash(http.Request);
        return hash is not null
            && await http.RequestServices.GetRequiredService<WideKeelDb>().Channels.AnyAsync(c => c.KeyHash == hash);
    }

    /// <summary>Before the token by which a program sends a directory; it opens nothing else.</summary>
    private const string DirectoryBeginning = "Bearer wd_";

    /// <summary>The SHA-256 of the directory's token that a request brings; null where it brings none.</summary>
    public static string? DirectoryTokenHash(HttpRequest request) =>
        request.Headers.Authorization.ToString() is var offered
        && offered.StartsWith(DirectoryBeginning, StringComparison.Ordinal)
            ? HashOf(offered["Bearer ".Length..])
            : null;

    /// <summary>A new token of a directory.</summary>
    public static string NewDirectoryToken() => $"wd_{NewKey()[3..]}";

    /// <summary>A new key of a channel.</summary>
    public static string NewChannelKey() => $"wc_{NewKey()[3..]}";

    /// <summary>A new key: 256 random bits.</summary>
    public static string NewKey() => $"wk_{Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32))}";

    public static string HashOf(string key) => ContentHash.Of(key);

    protected override async Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        if (!IsOffered(Request))
        {
            return AuthenticateResult.NoResult();
        }

        var hash = HashOf(Request.Headers.Authorization.ToString()["Bearer ".Length..]);
        var now = clock.GetCurrentInstant();
        var key = await db.ApiKeys.AsNoTracking().SingleOrDefaultAsync(k => k.Hash == hash && k.RevokedAt == null);
        return key is null || key.ExpiresAt <= now
            ? AuthenticateResult.Fail("This key is unknown, revoked or expired.")
            : AuthenticateResult.Success(
                new(
                    new(
                        new ClaimsIdentity(
                            [
                                new(
                                    ClaimTypes.NameIdentifier,
                                    key.PersonId.ToString(System.Globalization.CultureInfo.InvariantCulture)
                                ),
                                new("scopes", key.Scopes),
                                new("key", $"key “{key.Name}” ({key.Prefix}…)"),
                            ],
                            SchemeName
                        )
                    ),
                    SchemeName
                )
            );
    }
}
