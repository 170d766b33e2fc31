using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using QRCoder;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>Whether a sign-in of the caller asks for a one-time code.</summary>
/// <param name="Since">Null: it does not.</param>
/// <param name="RecoveryCodesLeft">Of those that stand in for a code, each once.</param>
public sealed record OneTimeCodesView(Instant? Since, int RecoveryCodesLeft);

public sealed record CurrentPassword(string Password);

/// <summary>A key that the server shares with an authenticator app, shown this once.</summary>
/// <param name="Key">Base32 (RFC 4648), for typing.</param>
/// <param name="Address">What the QR code says, for an app on the same device.</param>
/// <param name="QrSize">Modules along a side of the QR code, its quiet zone included.</param>
/// <param name="QrPath">The dark modules as the path of an SVG, one unit a module.</param>
public sealed record AuthenticatorKeyView(string Key, string Address, int QrSize, string QrPath);

public sealed record TypedCode(string Code);

/// <param name="Code">A one-time code or a recovery code.</param>
public sealed record PasswordAndCode(string Password, string Code);

/// <param name="Codes">Shown this once; only their hashes are kept.</param>
public sealed record RecoveryCodesView(IReadOnlyList<string> Codes);

/// <summary>One-time codes at the sign-in: set up, confirmed, and turned off.</summary>
public static class OneTimeCodeEndpoints
{
    public static void MapOneTimeCodes(this IEndpointRouteBuilder api)
    {
        api.MapGet("/session/one-time-codes", Show).RequiresSessionForFactor();
        api.MapPost("/session/one-time-codes", Begin).RequiresSessionForFactor().LimitsAttempts();
        api.MapPost("/session/one-time-codes/confirmation", Confirm).RequiresSessionForFactor().LimitsAttempts();
        api.MapPost("/session/one-time-codes/recovery-codes", RenewRecovery)
            .RequiresSessionForFactor()
            .LimitsAttempts();
        api.MapPost("/session/one-time-codes/turn-off", TurnOff).RequiresSessionForFactor().LimitsAttempts();
        api.MapDelete("/people/{id:long}/one-time-codes", TurnOffFor).RequiresInSession(Right.ManagePeople);
    }

    private static async Task<Reply<OneTimeCodesView>> Show([AsParameters] ApiContext context) =>
        new OneTimeCodesView(
            (await OneTimeCodes.ConfirmedAsync(context.Db, context.Caller.PersonId, context.Cancel))?.ConfirmedAt,
            await context.Db.RecoveryCodes.CountAsync(c => c.PersonId == context.Caller.PersonId, context.Cancel)
        );

    /// <summary>Another key; nothing asks for its codes before one was typed.</summary>
    private static async Task<Reply<AuthenticatorKeyView>> Begin(
        CurrentPassword request,
        OneTimeCodes codes,
        [AsParameters] ApiContext context
    ) =>
        await context.Writer.RunAsync<AuthenticatorKeyView>(
            context.Caller.Actor,
            async session =>
            {
                var me = context.Caller.PersonId;
                if (await CheckPasswordAsync(session, context, request.Password) is { } wrong)
                {
                    return wrong;
                }

                if (await OneTimeCodes.ConfirmedAsync(session.Db, me, context.Cancel) is not null)
                {
                    return Refusal.Conflict(
                        "one-time-codes-on",
                        null,
                        "One-time codes are on. Turn them off before you set up another app."
                    );
                }

                var key = OneTimeCode.NewKey();
                await codes.BeginAsync(session, me, key, context.Cancel);
                session.Record("one-time-codes-begun", SessionEndpoints.Subject(me));
                var organisation = await session.Db.Organisations.Select(o => o.Name).SingleAsync(context.Cancel);
                var mail = await session
                    .Db.Users.Where(p => p.Id == me)
                    .Select(p => p.Email!)
                    .SingleAsync(context.Cancel);
                return View(key, OneTimeCode.KeyAddress(key, $"Wide Keel, {organisation}", mail));
            },
            context.Cancel
        );

    /// <summary>The first code of the key: from now on a sign-in asks for one, and what is signed in elsewhere ends.</summary>
    private static async Task<Reply<RecoveryCodesView>> Confirm(
        TypedCode request,
        OneTimeCodes codes,
        [AsParameters] ApiContext context
    ) =>
        await context.Writer.RunAsync<RecoveryCodesView>(
            context.Caller.Actor,
            async session =>
            {
                var me = context.Caller.PersonId;
                var authenticator = await session.Db.Authenticators.SingleOrDefaultAsync(
                    a => a.PersonId == me && a.ConfirmedAt == null,
                    context.Cancel
                );
                if (authenticator is null)
                {
                    return Refusal.Conflict("one-time-codes-not-begun", null, "Ask for the key of an app first.");
                }

                var guard = session.Services.GetRequiredService<SignInGuard>();
                if (guard.CheckOwn(context.Caller) is { } tooMany)
                {
                    return tooMany;
                }

                if (codes.Use(authenticator, request.Code) is { } refusal)
                {
                    guard.FailedOwn(context.Caller);
                    return OfCode(refusal);
                }

                authenticator.ConfirmedAt = session.Now;
                var ended = await SessionEndpoints.EndAsync(
                    session,
                    s => s.PersonId == me && s.Id != context.Caller.SessionId,
                    context.Cancel
                );
                var spare = await OneTimeCodes.RenewRecoveryCodesAsync(session, me, context.Cancel);
                session.Record(
                    "one-time-codes-turned-on",
                    SessionEndpoints.Subject(me),
                    after: new JsonObject { ["recoveryCodes"] = spare.Count, ["sessionsEnded"] = ended }
                );
                return new RecoveryCodesView(spare);
            },
            context.Cancel
        );

    private static Task<Reply<RecoveryCodesView>> RenewRecovery(
        PasswordAndCode request,
        OneTimeCodes codes,
        [AsParameters] ApiContext context
    ) =>
        ChangeAsync<RecoveryCodesView>(
            request,
            codes,
            context,
            async session =>
            {
                var me = context.Caller.PersonId;
                var spare = await OneTimeCodes.RenewRecoveryCodesAsync(session, me, context.Cancel);
                session.Record(
                    "recovery-codes-renewed",
                    SessionEndpoints.Subject(me),
                    after: new JsonObject { ["recoveryCodes"] = spare.Count }
                );
                return new RecoveryCodesView(spare);
            }
        );

    private static Task<Reply<Done>> TurnOff(
        PasswordAndCode request,
        OneTimeCodes codes,
        [AsParameters] ApiContext context
    ) =>
        ChangeAsync<Done>(
            request,
            codes,
            context,
            async session =>
                await FactorRoles.IsNeededAsync(session.Db, context.Caller.Remits, context.Cancel)
                    ? Refusal.Conflict(
                        "one-time-codes-required",
                        null,
                        "One of your roles requires one-time codes, so you cannot turn them off."
                    )
                    : await TurnOffAsync(session, context.Caller.PersonId, context.Cancel)
        );

    /// <summary>For somebody who has lost the app and the recovery codes. They are signed out and get a message.</summary>
    private static async Task<Reply<Done>> TurnOffFor(long id, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (id == context.Caller.PersonId)
                {
                    return Refusal.Forbidden(
                        "one-time-codes-own",
                        null,
                        "Turn your own one-time codes off on your profile, with a code."
                    );
                }

                await SessionEndpoints.EndAsync(session, s => s.PersonId == id, context.Cancel);
                return await TurnOffAsync(session, id, context.Cancel);
            },
            context.Cancel
        );

    private static async Task<Outcome<Done>> TurnOffAsync(WriteSession session, long personId, CancellationToken cancel)
    {
        if (await OneTimeCodes.ConfirmedAsync(session.Db, personId, cancel) is not { } authenticator)
        {
            return Problems.NotFound("authenticator app");
        }

        await OneTimeCodes.TurnOffAsync(session, authenticator, cancel);
        var person = await session.Db.Users.SingleAsync(p => p.Id == personId, cancel);
        session.Record(
            "one-time-codes-turned-off",
            SessionEndpoints.Subject(personId),
            after: new JsonObject { ["name"] = person.DisplayName }
        );
        foreach (var news in session.Services.GetServices<IAccountNews>())
        {
            await news.OnCodesTurnedOffAsync(session, person, cancel);
        }

        return new Done();
    }

    /// <summary>A change of what is on already: whoever only sits at an open session does not make it.</summary>
    private static async Task<Reply<T>> ChangeAsync<T>(
        PasswordAndCode request,
        OneTimeCodes codes,
        ApiContext context,
        Func<WriteSession, Task<Outcome<T>>> work
    ) =>
        await context.Writer.RunAsync<T>(
            context.Caller.Actor,
            async session =>
            {
                var me = context.Caller.PersonId;
                if (await CheckPasswordAsync(session, context, request.Password) is { } wrong)
                {
                    return wrong;
                }

                var used = await codes.UseAsync(session, me, request.Code, context.Cancel);
                if (used.Refusal?.Code == OneTimeCodes.Wrong)
                {
                    session.Services.GetRequiredService<SignInGuard>().FailedOwn(context.Caller);
                }

                return used.Refused ? OfCode(used.Refusal!)
                    : used.Value == SecondFactor.None
                        ? Refusal.Conflict("one-time-codes-off", null, "One-time codes are not turned on.")
                    : await work(session);
            },
            context.Cancel
        );

    private static async Task<Refusal?> CheckPasswordAsync(WriteSession session, ApiContext context, string? password)
    {
        var guard = session.Services.GetRequiredService<SignInGuard>();
        if (guard.CheckOwn(context.Caller) is { } tooMany)
        {
            return tooMany;
        }

        var people = session.Services.GetRequiredService<UserManager<Person>>();
        var personId = context.Caller.PersonId;
        var person = await session.Db.Users.SingleAsync(p => p.Id == personId, context.Cancel);
        if (await people.CheckPasswordAsync(person, password ?? ""))
        {
            return null;
        }

        session.RecordAttempt(
            "one-time-codes-refused",
            SessionEndpoints.Subject(personId),
            "the current password was wrong"
        );
        guard.FailedOwn(context.Caller);
        return new Refusal("password-wrong", "password", "This is not your current password.");
    }

    /// <summary>Whoever types a wrong code here is signed in all the same: the input is wrong, the session is not.</summary>
    private static Refusal OfCode(Refusal refusal) => new(refusal.Code, refusal.Field, refusal.Sentence);

    private static AuthenticatorKeyView View(byte[] key, string address)
    {
        using var qr = QRCodeGenerator.GenerateQrCode(address, QRCodeGenerator.ECCLevel.L);
        var path = new StringBuilder();
        for (var y = 0; y < qr.ModuleMatrix.Count; y++)
        {
            for (var x = 0; x < qr.ModuleMatrix[y].Length; x++)
            {
                if (qr.ModuleMatrix[y][x])
                {
                    path.Append(CultureInfo.InvariantCulture, $"M{x} {y}h1v1h-1z");
                }
            }
        }

        return new(OneTimeCode.Base32(key), address, qr.ModuleMatrix.Count, path.ToString());
    }
}
