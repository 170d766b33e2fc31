using System.Collections.Concurrent;
using System.Net;
using WideKeel.Core;

namespace WideKeel.Server.People;

/// <summary>
/// Slows down whoever guesses. Failures are counted for the account and the address together: a stranger who guesses
/// elsewhere locks nobody out where they work, many people behind one address do not use up each other's tries, and an
/// account that does not exist is answered as one that does. It is kept in memory: a restart forgives.
/// </summary>
public sealed class SignInGuard(TimeProvider clock)
{
    public const int MostFailures = 5;
    private const int MostFailuresOfAddress = 50;
    private const int MostKept = 100_000;

    public static readonly TimeSpan Window = TimeSpan.FromMinutes(5);

    private readonly ConcurrentDictionary<string, Count> counts = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>Whether another try is taken now.</summary>
    /// <param name="account">As it was typed, or the number of a person within a session.</param>
    public Refusal? Check(string account, string? address) =>
        IsFull(KeyOf(account, address), MostFailures) || IsFull(KeyOf("", address), MostFailuresOfAddress)
            ? Refusal.TooMany("locked-out", null, "Too many failed attempts. Try again in five minutes.")
            : null;

    public void Failed(string account, string? address)
    {
        if (counts.Count >= MostKept)
        {
            Forget();
        }

        Add(KeyOf(account, address));
        Add(KeyOf("", address));
    }

    /// <summary>Somebody proved that the account is theirs.</summary>
    public void Succeeded(string account, string? address) => counts.TryRemove(KeyOf(account, address), out _);

    /// <summary>The same for a password or a code that somebody signed in types again.</summary>
    public Refusal? CheckOwn(Caller caller) => Check(OwnOf(caller), caller.Address);

    public void FailedOwn(Caller caller) => Failed(OwnOf(caller), caller.Address);

    private static string OwnOf(Caller caller) => $"#{Wording.Id(caller.PersonId)}";

    private void Add(string key) =>
        counts.AddOrUpdate(
            key,
            _ => new(1, clock.GetUtcNow()),
            (_, old) => IsOver(old) ? new(1, clock.GetUtcNow()) : old with { Failures = old.Failures + 1 }
        );

    private bool IsFull(string key, int most) =>
        counts.TryGetValue(key, out var count) && !IsOver(count) && count.Failures >= most;

    private bool IsOver(Count count) => count.Since + Window < clock.GetUtcNow();

    private void Forget()
    {
        foreach (var (key, count) in counts)
        {
            if (IsOver(count))
            {
                counts.TryRemove(key, out _);
            }
        }
    }

    /// <summary>One household or office has a whole /64 of IPv6 (RFC 6177), so that counts as one address.</summary>
    private static string KeyOf(string account, string? address)
    {
        var network =
            IPAddress.TryParse(address, out var ip) && ip.GetAddressBytes() is { Length: 16 } bytes
                ? Convert.ToHexString(bytes.AsSpan(0, 8))
                : address;
        return $"{account} {network}";
    }

    private sealed record Count(int Failures, DateTimeOffset Since);
}
