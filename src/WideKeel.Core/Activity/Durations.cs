using System.Globalization;
using NodaTime;

namespace WideKeel.Core.Activity;

/// <summary>Lengths of time in words.</summary>
internal static class Durations
{
    /// <summary>In the greatest unit of which there are two or more.</summary>
    public static string Words(Duration duration) =>
        duration >= Duration.FromDays(2) ? string.Create(CultureInfo.InvariantCulture, $"{duration.TotalDays:0.#} days")
        : duration >= Duration.FromHours(2)
            ? string.Create(CultureInfo.InvariantCulture, $"{duration.TotalHours:0.#} hours")
        : duration >= Duration.FromMinutes(2)
            ? string.Create(CultureInfo.InvariantCulture, $"{duration.TotalMinutes:0.#} minutes")
        : string.Create(CultureInfo.InvariantCulture, $"{duration.TotalSeconds:0.#} seconds");
}
