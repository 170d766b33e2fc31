using System.Text.Json.Nodes;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.AtRest;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;

namespace WideKeel.Server.Jobs;

/// <param name="Keys">From the newest on; empty where nothing is encrypted.</param>
public sealed record EncryptionView(IReadOnlyList<RestKeyView> Keys, IReadOnlyList<AtRestView> Contents);

/// <param name="Id">The beginning of encrypted files names it.</param>
public sealed record RestKeyView(Guid Id, Instant MadeAt);

/// <summary>How many files of one kind lie which way.</summary>
public sealed record AtRestView(string Name, long InTheOpen, long Encrypted);

/// <summary>Encryption of what lies on disk for long: the archive and safekeeping.</summary>
public static class EncryptionEndpoints
{
    public static void MapEncryption(this IEndpointRouteBuilder api)
    {
        api.MapGet("/encryption", Show).Requires(Right.ManageSettings);
        api.MapPost("/encryption", Begin).Requires(Right.ManageSettings);
        api.MapPost("/encryption/rotation", Rotate).Requires(Right.ManageSettings);
    }

    private static Reply<EncryptionView> Show(RestKeyring keyring, IEnumerable<IEncryptable> all) =>
        new EncryptionView(
            [.. (keyring.Keys?.All ?? []).Reverse().Select(k => new RestKeyView(k.Id, k.MadeAt))],
            [
                .. all.Select(e =>
                {
                    var (inTheOpen, encrypted) = e.Count();
                    return new AtRestView(e.Name, inTheOpen, encrypted);
                }),
            ]
        );

    private static Task<Reply<Done>> Begin(
        RestKeyring keyring,
        RestKeyFiles files,
        [AsParameters] ApiContext context
    ) =>
        MakeKeyAsync(
            "encryption-begun",
            () =>
                keyring.Keys is null
                    ? null
                    : Refusal.Conflict("encrypted-already", null, "The archive and safekeeping are encrypted already."),
            files,
            context
        );

    private static Task<Reply<Done>> Rotate(
        RestKeyring keyring,
        RestKeyFiles files,
        [AsParameters] ApiContext context
    ) =>
        MakeKeyAsync(
            "encryption-keys-rotated",
            () =>
                keyring.Keys is not null
                    ? null
                    : Refusal.Conflict(
                        "not-encrypted",
                        null,
                        "Nothing is encrypted yet, so there are no keys to rotate."
                    ),
            files,
            context
        );

    private static async Task<Reply<Done>> MakeKeyAsync(
        string verb,
        Func<Refusal?> refused,
        RestKeyFiles files,
        ApiContext context
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                // Asked inside, where one writes at a time: two persons who press at once make one key.
                if (refused() is { } refusal)
                {
                    return refusal;
                }

                RestKeys keys;
                try
                {
                    keys = files.Rotate(session.Now);
                }
                catch (Exception e) when (e is IOException or UnauthorizedAccessException)
                {
                    return Refusal.Conflict("key-not-written", null, $"The key could not be written: {e.Message}");
                }

                session.Record(
                    verb,
                    new("organisation", "1"),
                    after: new JsonObject { ["key"] = keys.Newest.Id.ToString(), ["master"] = keys.Master.ToString() }
                );
                await JobBoard.AddAsync(
                    session,
                    EncryptJob.JobKind,
                    0,
                    "Encrypting the archive and safekeeping",
                    null,
                    context.Caller.Name
                );
                return new Done();
            },
            context.Cancel
        );
}
