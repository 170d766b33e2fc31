using System.Collections.Concurrent;
using NodaTime;
using WideKeel.Store;

namespace WideKeel.Server.Kernel;

/// <summary>Something that the server does by itself, and cannot do at present.</summary>
/// <param name="Title">What is not done, in a few words.</param>
/// <param name="Why">What the failure said.</param>
/// <param name="Link">Path of the screen where what is not done can be seen.</param>
public sealed record Trouble(string Key, string Title, string Why, Instant Since, string Link);

/// <summary>
/// What work in the background fails at, as long as it does: the loops go on trying, and somebody must come to know.
/// </summary>
public sealed class Troubles(IClock clock, Writer writer)
{
    /// <summary>Where all that is open is listed.</summary>
    public const string Overview = "/set-up/organisation";

    private readonly ConcurrentDictionary<string, Trouble> open = new();

    /// <summary>The longest-standing first.</summary>
    public IReadOnlyList<Trouble> Open =>
        [
            .. open
                .Values.Concat(Unsealed())
                .Concat(WentBack())
                .OrderBy(t => t.Since)
                .ThenBy(t => t.Key, StringComparer.Ordinal),
        ];

    /// <summary>It failed; since the first failure after which nothing went well.</summary>
    /// <param name="link">Path of the screen where what is not done can be seen.</param>
    public void Report(string key, string title, string why, string link = Overview) =>
        open.AddOrUpdate(
            key,
            _ => new(key, title, why, clock.GetCurrentInstant(), link),
            (_, known) => known with { Title = title, Why = why }
        );

    /// <summary>It went well.</summary>
    public void Clear(string key) => open.TryRemove(key, out _);

    private IEnumerable<Trouble> Unsealed() =>
        writer.UnsealedSince is { } since
            ?
            [
                new(
                    "seal",
                    "No change is taken",
                    "The seal of the last change could not be written beside the database. Reading goes on.",
                    since,
                    "/activity/ledger"
                ),
            ]
            : [];

    private IEnumerable<Trouble> WentBack() =>
        writer.ClockWentBack is { } step
            ?
            [
                new(
                    "clock",
                    "The server's clock went back",
                    $"From {step.From} to {step.To}. Periods and proofs rest on the clock: find out who set it.",
                    step.To,
                    "/activity/ledger"
                ),
            ]
            : [];
}
