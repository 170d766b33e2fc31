using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>What stood beside the password at a sign-in.</summary>
public enum SecondFactor
{
    /// <summary>The person has no authenticator app: the password is enough.</summary>
    None,
    OneTimeCode,
    RecoveryCode,
}

/// <summary>The one-time codes that people have set up, and the recovery codes that stand in for them.</summary>
public sealed class OneTimeCodes(IDataProtectionProvider protection, WideKeelOptions options)
{
    public const string Wrong = "one-time-code-wrong";

    private IDataProtector Protector => protection.CreateProtector("authenticator");

    /// <summary>Phones show the time of the wall, whatever day the demo is at.</summary>
    private Instant Now => Instant.FromDateTimeOffset(options.WallClock.GetUtcNow());

    /// <summary>
    /// Whether whoever gave the right password may come in; uses up the code that lets them. Refuses where a code is
    /// missing, wrong or used.
    /// </summary>
    /// <param name="typed">A one-time code or a recovery code; null or empty where none was typed.</param>
    public async Task<Outcome<SecondFactor>> UseAsync(
        WriteSession session,
        long personId,
        string? typed,
        CancellationToken cancel
    )
    {
        var authenticator = await ConfirmedAsync(session.Db, personId, cancel);
        if (authenticator is null)
        {
            return SecondFactor.None;
        }

        if (string.IsNullOrWhiteSpace(typed))
        {
            return Refusal.NotSignedIn(
                "one-time-code-needed",
                "code",
                "Type the code that your authenticator app shows."
            );
        }

        var hash = OneTimeCode.RecoveryHash(typed);
        if (
            await session
                .Db.RecoveryCodes.Where(c => c.PersonId == personId && c.Hash == hash)
                .ExecuteDeleteAsync(cancel) == 1
        )
        {
            return SecondFactor.RecoveryCode;
        }

        return Use(authenticator, typed) is { } refusal ? refusal : SecondFactor.OneTimeCode;
    }

    /// <summary>Uses the code up; a refusal where it is none of now, or was used.</summary>
    public Refusal? Use(Authenticator authenticator, string? typed)
    {
        byte[] key;
        try
        {
            key = Protector.Unprotect(Convert.FromBase64String(authenticator.Key));
        }
        catch (Exception e) when (e is CryptographicException or FormatException)
        {
            return Refusal.OutOfService(
                "authenticator-unreadable",
                null,
                "The key of the authenticator app cannot be read with the keys of this server. Use a recovery code, "
                    + "or ask an administrator to turn the one-time codes off."
            );
        }

        if (OneTimeCode.StepOf(key, typed, Now, authenticator.UsedStep) is not { } step)
        {
            return Refusal.NotSignedIn(
                Wrong,
                "code",
                "This code is wrong, over or used already. Wait for the next one; if none is taken, set the clock of "
                    + "the phone."
            );
        }

        authenticator.UsedStep = step;
        return null;
    }

    public static Task<Authenticator?> ConfirmedAsync(WideKeelDb db, long personId, CancellationToken cancel) =>
        db.Authenticators.SingleOrDefaultAsync(a => a.PersonId == personId && a.ConfirmedAt != null, cancel);

    /// <summary>Other recovery codes in place of those there were; each is shown this once.</summary>
    public static async Task<IReadOnlyList<string>> RenewRecoveryCodesAsync(
        WriteSession session,
        long personId,
        CancellationToken cancel
    )
    {
        await session.Db.RecoveryCodes.Where(c => c.PersonId == personId).ExecuteDeleteAsync(cancel);
        var codes = Enumerable.Range(0, OneTimeCode.RecoveryCodes).Select(_ => OneTimeCode.NewRecoveryCode()).ToList();
        session.Db.RecoveryCodes.AddRange(
            codes.Select(c => new RecoveryCode { PersonId = personId, Hash = OneTimeCode.RecoveryHash(c) })
        );
        return codes;
    }

    /// <summary>Another key of an app that no code has confirmed yet, in place of the one before.</summary>
    public async Task BeginAsync(WriteSession session, long personId, byte[] key, CancellationToken cancel)
    {
        await session
            .Db.Authenticators.Where(a => a.PersonId == personId && a.ConfirmedAt == null)
            .ExecuteDeleteAsync(cancel);
        session.Db.Authenticators.Add(
            new() { PersonId = personId, Key = Convert.ToBase64String(Protector.Protect(key)) }
        );
    }

    /// <summary>The password alone is enough again.</summary>
    public static async Task TurnOffAsync(WriteSession session, Authenticator authenticator, CancellationToken cancel)
    {
        await session.Db.RecoveryCodes.Where(c => c.PersonId == authenticator.PersonId).ExecuteDeleteAsync(cancel);
        session.Db.Authenticators.Remove(authenticator);
    }
}
