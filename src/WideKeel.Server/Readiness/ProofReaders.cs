using WideKeel.Core.People;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>
/// Who sees the proofs of a control's part. Whoever manages readiness says who does, which is an entry of the ledger, and
/// is not among them by that.
/// </summary>
internal static class ProofReaders
{
    /// <summary>
    /// Whether the caller sees them: because they answer for the control or bring the proofs, or by the roles that are
    /// named; where none are, as everybody who reads readiness.
    /// </summary>
    public static bool MaySee(ControlPartRow part, string controlOwner, Caller caller) =>
        new[] { part.Doer, part.Deputy, controlOwner }.Contains(caller.Mail, StringComparer.OrdinalIgnoreCase)
        || (
            part.SeenBy.Count == 0
                ? caller.May(Right.ReadReadiness)
                : caller.Remits.Any(r => part.SeenBy.Contains(r.Role))
        );

    /// <summary>Whether they can be shown in the room of an audit.</summary>
    public static bool IsForAuditors(ControlPartRow part) =>
        part.SeenBy.Count == 0 || part.SeenBy.Contains(Role.ExternalAuditor);
}
