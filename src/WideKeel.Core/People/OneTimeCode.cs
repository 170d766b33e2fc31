using System.Security.Cryptography;
using NodaTime;
using OtpNet;
using WideKeel.Core.Ledger;

namespace WideKeel.Core.People;

/// <summary>
/// One-time codes as an authenticator app shows them: TOTP of RFC 6238 with HMAC-SHA-1, six digits and steps of 30
/// seconds, which is what such apps take for granted (common practice).
/// </summary>
public static class OneTimeCode
{
    public const int Digits = 6;

    /// <summary>Seconds for which one code stands (RFC 6238, section 4.1: X).</summary>
    public const int StepSeconds = 30;

    /// <summary>The length that RFC 4226, section 4, recommends: 160 bits.</summary>
    public const int KeyBytes = 20;

    /// <summary>How many recovery codes a person gets at once.</summary>
    public const int RecoveryCodes = 10;

    /// <summary>Sixteen of these are 79 bits; letters and digits that look alike are left out.</summary>
    private const string RecoveryAlphabet = "abcdefghjkmnpqrstuvwxyz23456789";
    private const int RecoveryGroups = 4;
    private const int RecoveryGroupLength = 4;

    /// <summary>A phone may be one step behind or ahead of the server, as RFC 6238, section 5.2, allows.</summary>
    private static readonly VerificationWindow Window = new(previous: 1, future: 1);

    public static byte[] NewKey() => RandomNumberGenerator.GetBytes(KeyBytes);

    /// <summary>The key as it is typed into an app that has no camera: base32 (RFC 4648), upper case, not padded.</summary>
    public static string Base32(byte[] key) => Base32Encoding.ToString(key).TrimEnd('=');

    /// <summary>The code that stands at an instant.</summary>
    public static string At(byte[] key, Instant at) => Totp(key).ComputeTotp(at.ToDateTimeUtc());

    /// <summary>
    /// The step whose code was typed, counted from the epoch of Unix time; null where the code is none of the step of
    /// <paramref name="at"/>, the one before and the one after, or where it was used: a code opens one time only
    /// (RFC 6238, section 5.2), and none before it afterwards.
    /// </summary>
    /// <param name="typed">Spaces do not count.</param>
    /// <param name="usedStep">The latest step whose code was used; null: none was.</param>
    public static long? StepOf(byte[] key, string? typed, Instant at, long? usedStep)
    {
        var code = WithoutSpaces(typed);
        return
            code.Length == Digits
            && Totp(key).VerifyTotp(at.ToDateTimeUtc(), code, out var step, Window)
            && !(step <= usedStep)
            ? step
            : null;
    }

    /// <summary>What the QR code says: the address form that authenticator apps read (common practice).</summary>
    /// <param name="issuer">The product and the organisation.</param>
    /// <param name="account">The person's mail address.</param>
    public static string KeyAddress(byte[] key, string issuer, string account) =>
        new OtpUri(OtpType.Totp, Base32(key), account, issuer, digits: Digits, period: StepSeconds).ToString();

    /// <summary>A code for whoever has lost the phone: four groups of four, such as <c>k3qd-x8mh-92tv-bwr7</c>.</summary>
    public static string NewRecoveryCode() =>
        string.Join(
            '-',
            Enumerable
                .Range(0, RecoveryGroups)
                .Select(_ => RandomNumberGenerator.GetString(RecoveryAlphabet, RecoveryGroupLength))
        );

    /// <summary>
    /// What is kept of a recovery code: the SHA-256 of its letters and digits, lower-case hex. It has 79 bits by chance, so
    /// that a slow hash adds nothing.
    /// </summary>
    public static string RecoveryHash(string? typed) =>
        ContentHash.Of(WithoutSpaces(typed).Replace("-", "", StringComparison.Ordinal).ToLowerInvariant());

    private static string WithoutSpaces(string? typed) =>
        string.Concat((typed ?? "").Where(c => !char.IsWhiteSpace(c)));

    private static Totp Totp(byte[] key) => new(key, step: StepSeconds, mode: OtpHashMode.Sha1, totpSize: Digits);
}
