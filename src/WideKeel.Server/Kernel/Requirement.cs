using Microsoft.AspNetCore.Mvc;
using WideKeel.Core;
using WideKeel.Core.People;

namespace WideKeel.Server.Kernel;

/// <summary>
/// What an endpoint asks of its caller: a right, or merely to be signed in, or nothing. Every endpoint under /api says
/// one of the three.
/// </summary>
/// <param name="Right">Null: no right is needed.</param>
/// <param name="Anonymous">True: not even a sign-in.</param>
/// <param name="NoKeys">True: a key is not enough; its person signs in.</param>
/// <param name="ForNewPassword">True: open to those whose password somebody else set, who choose another here.</param>
public sealed record Requirement(Right? Right, bool Anonymous, bool NoKeys = false, bool ForNewPassword = false);

public static class Requirements
{
    public static TBuilder Requires<TBuilder>(this TBuilder endpoint, Right right)
        where TBuilder : IEndpointConventionBuilder => endpoint.WithMetadata(new Requirement(right, false));

    /// <summary>Takes bodies that are larger than others.</summary>
    /// <param name="bytes">At most.</param>
    public static TBuilder TakesUpTo<TBuilder>(this TBuilder endpoint, long bytes)
        where TBuilder : IEndpointConventionBuilder => endpoint.WithMetadata(new RequestSizeLimitAttribute(bytes));

    public static TBuilder RequiresSignIn<TBuilder>(this TBuilder endpoint)
        where TBuilder : IEndpointConventionBuilder => endpoint.WithMetadata(new Requirement(null, false));

    /// <summary>
    /// For sessions, and for what works without one: a key that made another would outlive its own revocation.
    /// </summary>
    public static TBuilder RequiresSession<TBuilder>(this TBuilder endpoint)
        where TBuilder : IEndpointConventionBuilder =>
        endpoint.WithMetadata(new Requirement(null, false, NoKeys: true));

    /// <summary>For choosing a new password, which comes before everything else where somebody else set it.</summary>
    public static TBuilder RequiresSessionForNewPassword<TBuilder>(this TBuilder endpoint)
        where TBuilder : IEndpointConventionBuilder =>
        endpoint.WithMetadata(new Requirement(null, false, NoKeys: true, ForNewPassword: true));

    public static TBuilder OpenToAll<TBuilder>(this TBuilder endpoint)
        where TBuilder : IEndpointConventionBuilder => endpoint.WithMetadata(new Requirement(null, true));

    /// <summary>The one decision at the door. An endpoint that says nothing is closed.</summary>
    public static Refusal? Decide(Requirement? requirement, Caller caller) =>
        requirement switch
        {
            null => Refusal.Forbidden("not-allowed", null, "This address has not been given to anyone."),
            { Anonymous: true } => null,
            _ when !caller.SignedIn => Refusal.NotSignedIn("not-signed-in", null, "Sign in first."),
            { NoKeys: true } when caller.ByKey => Refusal.Forbidden(
                "key-by-key",
                null,
                "A key is not enough for this; its person signs in."
            ),
            { ForNewPassword: false } when caller.PasswordIsTemporary => Refusal.Forbidden(
                "password-to-choose",
                null,
                "Somebody else set your password. Choose another one first."
            ),
            { Right: { } right } when !caller.May(right) => Refusal.Forbidden(
                "not-allowed",
                null,
                "Your role does not include this."
            ),
            _ => null,
        };
}
