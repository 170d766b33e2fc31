using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>
/// What codes of failed sign-ins mean: the organisation's own explanations, then the catalogue that ships with the
/// product.
/// </summary>
internal sealed class SignInCatalogue
{
    private const int MostCharacters = 400;
    private readonly Dictionary<string, SignInCode> own;

    private SignInCatalogue(Dictionary<string, SignInCode> own) => this.own = own;

    public static void MapSignInCodes(IEndpointRouteBuilder api)
    {
        api.MapPut("/activity/sign-in-codes/{code}", Explain).Requires(Right.ManageWatches);
        api.MapDelete("/activity/sign-in-codes/{code}", Forget).Requires(Right.ManageWatches);
    }

    public static async Task<SignInCatalogue> LoadAsync(WideKeelDb db, CancellationToken cancel) =>
        new(
            await db
                .SignInCodes.AsNoTracking()
                .ToDictionaryAsync(c => c.Code, c => new SignInCode(c.Code, c.Words, c.Next), cancel)
        );

    /// <summary>Null where nobody explained the code.</summary>
    public SignInCode? Find(string? code) =>
        code is null ? null : own.GetValueOrDefault(code) ?? SignInCodes.Find(code);

    /// <summary>Whether the explanation is the organisation's own.</summary>
    public bool IsOwn(string code) => own.ContainsKey(code);

    /// <summary>Explains a code, or explains it anew; also one of the catalogue.</summary>
    private static async Task<Reply<Done>> Explain(
        string code,
        SignInExplanation request,
        [AsParameters] ApiContext context
    )
    {
        if (
            new[] { ("words", request.Words), ("next", request.Next) }.FirstOrDefault(t =>
                string.IsNullOrWhiteSpace(t.Item2) || t.Item2.Length > MostCharacters
            ) is
            { Item1: { } field }
        )
        {
            return new Refusal("explanation-needed", field, $"Say it in 1 to {MostCharacters} characters.");
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var known = await session.Db.SignInCodes.SingleOrDefaultAsync(c => c.Code == code, context.Cancel);
                var before = known is null ? null : Json(known);
                var row =
                    known
                    ?? session
                        .Db.SignInCodes.Add(
                            new()
                            {
                                Code = code,
                                Words = "",
                                Next = "",
                            }
                        )
                        .Entity;
                (row.Words, row.Next) = (request.Words.Trim(), request.Next.Trim());
                session.Record("code-explained", new("sign-in-code", code), before, Json(row));
                return new Done();
            },
            context.Cancel
        );
    }

    /// <summary>Takes an explanation back; that of the catalogue counts again.</summary>
    private static async Task<Reply<Done>> Forget(string code, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (
                    await session.Db.SignInCodes.SingleOrDefaultAsync(c => c.Code == code, context.Cancel)
                    is not { } row
                )
                {
                    return Problems.NotFound("explanation of this code");
                }

                session.Db.SignInCodes.Remove(row);
                session.Record("explanation-removed", new("sign-in-code", code), Json(row));
                return new Done();
            },
            context.Cancel
        );

    private static JsonObject Json(SignInCodeRow row) => new() { ["words"] = row.Words, ["next"] = row.Next };
}

/// <param name="Words">What the code means, in a sentence.</param>
/// <param name="Next">What to do about it.</param>
public sealed record SignInExplanation(string Words, string Next);
