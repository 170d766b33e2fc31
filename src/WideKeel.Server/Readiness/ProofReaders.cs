using WideKeel.Core.People;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>
/// Who sees the proofs of a control's part. Whoever manages readiness says who does, which is an entry of the ledger, and
/// is not among them by that.
/// </summary>
internal static class ProofReaders
{
    /// <summary>Whether the caller answers for the control, or does the part, or stands in for whoever does.</summary>
    private static bool IsTheirs(ControlPartRow part, string controlOwner, Caller caller) =>
        new[] { part.Doer, part.Deputy, controlOwner }.Contains(caller.Mail, StringComparer.OrdinalIgnoreCase);

    /// <summary>Whether the caller may bring a proof: it is theirs to do, or they manage readiness.</summary>
    public static bool MayBring(ControlPartRow part, string controlOwner, Caller caller) =>
        caller.May(Right.ManageReadiness) || IsTheirs(part, controlOwner, caller);

    /// <summary>The latest proof that was not withdrawn, where it awaits approval; null otherwise.</summary>
    public static PartProof? Awaiting(ControlPartRow part) =>
        part is { NeedsReview: true, Kind: PartKind.Evidence }
        && part.Proofs.Where(p => p.WithdrawnAt is null).MaxBy(p => p.Id) is { ReviewedAt: null } latest
            ? latest
            : null;

    /// <summary>The proof that awaits approval, where the caller may give it; null otherwise.</summary>
    public static PartProof? ToApprove(ControlPartRow part, string controlOwner, Caller caller) =>
        Awaiting(part) is { } waiting
        && MayBring(part, controlOwner, caller)
        && caller.NotSecondTo(waiting.ById, ProofGiving.GaveIt) is null
            ? waiting
            : null;

    /// <summary>
    /// Whether the caller sees them: because they are theirs to bring, or by the roles that are named; where none are, as
    /// everybody who reads readiness.
    /// </summary>
    public static bool MaySee(ControlPartRow part, string controlOwner, Caller caller) =>
        IsTheirs(part, controlOwner, caller)
        || (
            part.SeenBy.Count == 0
                ? caller.May(Right.ReadReadiness)
                : caller.Remits.Any(r => part.SeenBy.Contains(r.Role))
        );

    /// <summary>Whether they can be shown in the room of an audit.</summary>
    public static bool IsForAuditors(ControlPartRow part) =>
        part.SeenBy.Count == 0 || part.SeenBy.Contains(Role.ExternalAuditor);
}
