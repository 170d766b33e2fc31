using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core.Readiness;

/// <summary>
/// How the product and a program outside know each other over HTTP: both sign with one key, HMAC-SHA256 (RFC 2104). A
/// question carries its moment and a number used once; the answer is signed together with that number, so that neither
/// can be sent again.
/// </summary>
public static class Signature
{
    public const string Header = "X-WideKeel-Signature";
    public const string TimeHeader = "X-WideKeel-Time";
    public const string NonceHeader = "X-WideKeel-Nonce";

    /// <summary>A question that is older, or from further ahead, is not answered.</summary>
    public static readonly Duration Stays = Duration.FromMinutes(5);

    /// <summary>The shortest key that is taken, in characters.</summary>
    public const int ShortestKey = 16;

    /// <summary>Over what is asked, in the form <c>sha256=</c> and hexadecimal digits.</summary>
    /// <param name="path">Such as /records.</param>
    public static string OfQuestion(string key, string path, string time, string nonce) =>
        Over(key, $"GET {path}\n{time}\n{nonce}");

    public static string OfAnswer(string key, string nonce, string body) => Over(key, $"{nonce}\n{body}");

    /// <summary>Compares in a time that says nothing of where two differ.</summary>
    public static bool Same(string? given, string expected) =>
        given is not null
        && CryptographicOperations.FixedTimeEquals(Encoding.UTF8.GetBytes(given), Encoding.UTF8.GetBytes(expected));

    /// <summary>Whether a question's moment is near enough.</summary>
    /// <param name="time">As <see cref="InstantPattern.General"/> writes it.</param>
    public static bool IsFresh(string? time, Instant now) =>
        time is not null
        && InstantPattern.General.Parse(time) is { Success: true, Value: var at }
        && at >= now - Stays
        && at <= now + Stays;

    private static string Over(string key, string text) =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"sha256={Convert.ToHexStringLower(HMACSHA256.HashData(Encoding.UTF8.GetBytes(key), Encoding.UTF8.GetBytes(text)))}"
        );
}
