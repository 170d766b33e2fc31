using System.Collections.Concurrent;
using NodaTime;

namespace WideKeel.Server.Kernel;

/// <summary>Something that the server does by itself, and cannot do at present.</summary>
/// <param name="Title">What is not done, in a few words.</param>
/// <param name="Why">What the failure said.</param>
public sealed record Trouble(string Key, string Title, string Why, Instant Since);

/// <summary>
/// What work in the background fails at, as long as it does: the loops go on trying, and somebody must come to know.
/// </summary>
public sealed class Troubles(IClock clock)
{
    private readonly ConcurrentDictionary<string, Trouble> open = new();

    /// <summary>The longest-standing first.</summary>
    public IReadOnlyList<Trouble> Open =>
        [.. open.Values.OrderBy(t => t.Since).ThenBy(t => t.Key, StringComparer.Ordinal)];

    /// <summary>It failed; since the first failure after which nothing went well.</summary>
    public void Report(string key, string title, string why) =>
        open.AddOrUpdate(
            key,
            _ => new(key, title, why, clock.GetCurrentInstant()),
            (_, known) => known with { Title = title, Why = why }
        );

    /// <summary>It went well.</summary>
    public void Clear(string key) => open.TryRemove(key, out _);
}
