using System.Threading.RateLimiting;
using WideKeel.Core;

namespace WideKeel.Server.Kernel;

/// <summary>
/// How often one address may try in a minute what somebody could try by guessing. It is ours and not the framework's
/// middleware, whose timer keeps a host that was stopped alive.
/// </summary>
internal sealed class AttemptLimit(WideKeelOptions options) : IDisposable
{
    private readonly PartitionedRateLimiter<string> limiter = PartitionedRateLimiter.Create<string, string>(address =>
        RateLimitPartition.GetFixedWindowLimiter(
            address,
            _ => new FixedWindowRateLimiterOptions
            {
                PermitLimit = options.SignInsAMinute,
                Window = TimeSpan.FromMinutes(1),
            }
        )
    );

    public static Refusal TooMany { get; } =
        Refusal.TooMany("too-many-attempts", null, "Too many attempts from this address. Wait a minute.");

    /// <summary>Counts one attempt; false where there were too many.</summary>
    public bool Admits(HttpContext http)
    {
        using var lease = limiter.AttemptAcquire(NetworkAddress.Of(http) ?? "");
        return lease.IsAcquired;
    }

    public void Dispose() => limiter.Dispose();
}

internal static class AttemptLimits
{
    /// <summary>Counts the requests of each address, and refuses them where they are too many.</summary>
    public static RouteHandlerBuilder LimitsAttempts(this RouteHandlerBuilder route) =>
        route.AddEndpointFilter(
            async (invocation, next) =>
                invocation.HttpContext.RequestServices.GetRequiredService<AttemptLimit>().Admits(invocation.HttpContext)
                    ? await next(invocation)
                    : (Reply<Done>)AttemptLimit.TooMany
        );
}
