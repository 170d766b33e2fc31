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
/// <param name="ForFactor">True: open to those who must set up one-time codes before anything else.</param>
public sealed record Requirement(Right? Right, bool Anonymous, bool NoKeys = false, bool ForFactor = false);

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

    /// <summary>A right that no key can use: people, passwords and keys are made by people.</summary>
    public static TBuilder RequiresInSession<TBuilder>(this TBuilder endpoint, Right right)
        where TBuilder : IEndpointConventionBuilder =>
        endpoint.WithMetadata(new Requirement(right, false, NoKeys: true));

    /// <summary>For setting up one-time codes, which comes before everything else where a role requires them.</summary>
    public static TBuilder RequiresSessionForFactor<TBuilder>(this TBuilder endpoint)
        where TBuilder : IEndpointConventionBuilder =>
        endpoint.WithMetadata(new Requirement(null, false, NoKeys: true, ForFactor: true));

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
            { ForFactor: false } when caller.FactorIsMissing => Refusal.Forbidden(
                "factor-missing",
                null,
                "One of your roles requires one-time codes. Set them up first."
            ),
            { Right: { } right } when !caller.May(right) => Refusal.Forbidden(
                "not-allowed",
                null,
                "Your role does not include this."
            ),
            _ => null,
        };
}
