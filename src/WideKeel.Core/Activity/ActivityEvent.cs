using NodaTime;

namespace WideKeel.Core.Activity;

/// <summary>Who or what acted.</summary>
public enum ActorKind
{
    Unknown,
    Person,
    Service,
}

/// <summary>How what was tried ended.</summary>
public enum EventOutcome
{
    Success,
    Failure,

    /// <summary>Neither: a step was asked for that did not follow, such as a second factor.</summary>
    Interrupted,
}

/// <summary>Where an address is, as far as the table of places knows.</summary>
/// <param name="Country">ISO 3166-1 alpha-2; XA to XZ are free for private use.</param>
/// <param name="Latitude">Degrees north, −90 to 90; null where only the country is known.</param>
/// <param name="Longitude">Degrees east, −180 to 180.</param>
public sealed record EventPlace(string? Country, string? Name, double? Latitude, double? Longitude);

/// <summary>
/// One line of some system's activity log. What is null is unknown. Network, place, unit and title are derived when the
/// event arrives and never changed afterwards.
/// </summary>
public sealed record ActivityEvent
{
    /// <summary>The source's own id, else the SHA-256 of the original line; tells events of one channel apart.</summary>
    public required string Id { get; init; }

    /// <summary>When it happened, to the millisecond.</summary>
    public required Instant Time { get; init; }

    /// <summary>When it arrived here; no part of what is sealed.</summary>
    public Instant? Received { get; init; }

    public string? Channel { get; init; }

    public string? Actor { get; init; }

    public ActorKind ActorKind { get; init; }

    public string? Category { get; init; }

    /// <summary>Dotted, lower case.</summary>
    public string? Action { get; init; }

    public string? Object { get; init; }

    public string? Container { get; init; }

    /// <summary>Who or what it was given to.</summary>
    public string? Target { get; init; }

    public string? Address { get; init; }

    /// <summary>The name of the network that holds the address.</summary>
    public string? Network { get; init; }

    public EventPlace? Place { get; init; }

    public string? Device { get; init; }

    public string? Application { get; init; }

    public EventOutcome? Outcome { get; init; }

    public string? Code { get; init; }

    /// <summary>Bytes, items, whatever the action counts.</summary>
    public decimal? Amount { get; init; }

    /// <summary>An object of JSON with what no other field holds.</summary>
    public string? Details { get; init; }

    /// <summary>The line as it came.</summary>
    public string? Original { get; init; }

    /// <summary>The actor's unit at that time.</summary>
    public string? Unit { get; init; }

    /// <summary>The actor's title at that time.</summary>
    public string? Title { get; init; }
}
