namespace WideKeel.Core.Activity;

/// <param name="Words">What happened, in a sentence.</param>
/// <param name="Next">What to do about it.</param>
public sealed record SignInCode(string Code, string Words, string Next);

/// <summary>
/// Why sign-ins fail: a catalogue of general codes, in our own words. A source that has codes of its own maps them to
/// these when its lines are read.
/// </summary>
public static class SignInCodes
{
    public static IReadOnlyList<SignInCode> All { get; } =
    [
        new(
            "bad-password",
            "The password was wrong.",
            "One or two are typing; many from one address are guessing: look at the address."
        ),
        new(
            "unknown-account",
            "There is no such account.",
            "Somebody tries names. See which other names came from this address."
        ),
        new(
            "account-disabled",
            "The account is switched off.",
            "Ask whether its person still works here; if not, find out who tried."
        ),
        new(
            "account-locked",
            "The account was locked after failed attempts.",
            "Look at the attempts before it, then unlock it with its person."
        ),
        new("account-expired", "The account’s time is over.", "Extend it if its person still works here."),
        new("password-expired", "The password is too old.", "Its person sets a new one at the next sign-in."),
        new("password-change-needed", "A new password must be set first.", "Nothing; it is the usual first sign-in."),
        new(
            "mfa-required",
            "A second factor is needed, and none was given.",
            "If the password was right, it may be known to somebody else: ask its person."
        ),
        new(
            "mfa-denied",
            "The person refused the second factor.",
            "Ask its person at once: they may have refused somebody else’s attempt."
        ),
        new(
            "mfa-timeout",
            "The second factor was not answered in time.",
            "Once is chance; many in a row wear a person down: look at their times."
        ),
        new(
            "mfa-wrong-code",
            "The code of the second factor was wrong.",
            "Check the clock of the person’s device if it happens again."
        ),
        new("mfa-not-registered", "The account has no second factor.", "Have one registered, in person."),
        new("device-not-managed", "The device is not one of the organisation’s.", "Enrol it, or find out whose it is."),
        new("device-out-of-date", "The device lacks updates.", "Its person updates it."),
        new(
            "place-blocked",
            "Sign-ins from this place are not allowed.",
            "If its person travels, allow it until they are back; if not, reset the password."
        ),
        new("network-blocked", "Sign-ins from this network are not allowed.", "See whose network it is."),
        new("hours-blocked", "Sign-ins are not allowed at this hour.", "Ask whether the shift was changed."),
        new(
            "app-not-allowed",
            "The person may not use this application.",
            "If they need it, add them to the group that gives it."
        ),
        new("app-disabled", "The application is switched off.", "Ask who switched it off, and why."),
        new(
            "consent-needed",
            "The application needs a consent that was not given.",
            "Look at what it asks for before anybody consents."
        ),
        new("session-expired", "The session had ended.", "Nothing; its person signs in again."),
        new(
            "token-revoked",
            "The session was ended by somebody.",
            "If it was no administrator, look at what the session did."
        ),
        new(
            "certificate-invalid",
            "The certificate of the device is not valid.",
            "Renew it; see who uses it if it was revoked."
        ),
        new(
            "protocol-old",
            "An old way of signing in was used, which knows no second factor.",
            "Find the program that uses it, and replace it."
        ),
        new(
            "risk-blocked",
            "The attempt looked unlike the person’s others.",
            "Ask its person; if it was they, allow it."
        ),
        new(
            "service-unavailable",
            "The sign-in service did not answer.",
            "See whether all applications fail at this time."
        ),
    ];

    private static readonly Dictionary<string, SignInCode> ByCode = All.ToDictionary(c => c.Code);

    /// <summary>Null where the code is not in the catalogue.</summary>
    public static SignInCode? Find(string? code) => code is null ? null : ByCode.GetValueOrDefault(code);
}
