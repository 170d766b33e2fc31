using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Ledger;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>A proof with all that an auditor is shown of it, as it was when it was offered.</summary>
/// <param name="Facts">What a test looked at, as JSON; null where there is none.</param>
internal sealed record OfferedProof(string Control, string Title, ProofView Proof, string? Facts);

/// <summary>
/// What is offered in the room of an audit: copies by hash, with the facts that they had. Nothing outside the room changes
/// or removes one; the organisation withdraws it with a reason, which stands among the remarks.
/// </summary>
internal static class AuditOffers
{
    /// <summary>What is offered for a request now.</summary>
    public static IEnumerable<AuditOffer> In(AuditRequest request) =>
        request.Offers.Where(o => o.WithdrawnAt is null).OrderBy(o => o.Id);

    public static OfferedProof Of(AuditOffer offer) =>
        JsonSerializer.Deserialize<OfferedProof>(offer.Frozen, Json.Options)!;

    public static ProofDetailLine View(AuditOffer offer, AuditRow audit)
    {
        var frozen = Of(offer);
        return new(
            offer.ProofId,
            frozen.Control,
            frozen.Title,
            frozen.Proof,
            offer.Hash,
            offer.OfferedAt,
            offer.OfferedBy,
            IsOutside(frozen.Proof, audit)
        );
    }

    /// <summary>
    /// Whether a proof lies outside the period that an audit looks at: by the period that it covers, or where it names none
    /// by its day.
    /// </summary>
    public static bool IsOutside(ProofView proof, AuditRow audit) =>
        (proof.CoversThrough ?? proof.Day) < audit.PeriodFrom || (proof.CoversFrom ?? proof.Day) > audit.PeriodThrough;

    /// <summary>Copies a proof into the room.</summary>
    public static AuditOffer Freeze(PartProof proof, string control, string title, WriteSession session)
    {
        var text = CanonicalJson.Text(
            JsonSerializer.SerializeToNode(
                new OfferedProof(control, title, ControlViews.View(proof), proof.Frozen?.Text),
                Json.Options
            )!
        );
        return new()
        {
            ProofId = proof.Id,
            Frozen = text,
            Hash = ContentHash.Of(text),
            OfferedAt = session.Now,
            OfferedBy = session.Actor.Who,
        };
    }

    /// <summary>
    /// The offered proofs that the caller is not shown: of the organisation those who may not see them. The auditor sees
    /// all that was offered.
    /// </summary>
    public static async Task<IReadOnlySet<long>> HiddenAsync(AuditRow audit, ApiContext context)
    {
        if (AuditRoom.IsAuditor(audit, context.Caller, context.Calendar.Today))
        {
            return new HashSet<long>();
        }

        var ids = audit.Requests.SelectMany(In).Select(o => o.ProofId).ToList();
        var parts = await (
            from proof in context.Db.PartProofs
            join part in context.Db.ControlParts.IgnoreQueryFilters() on proof.PartId equals part.Id
            join control in context.Db.Controls.IgnoreQueryFilters() on part.ControlId equals control.Id
            where ids.Contains(proof.Id)
            select new
            {
                proof.Id,
                Part = part,
                control.Owner,
            }
        )
            .AsNoTracking()
            .ToListAsync(context.Cancel);
        return parts.Where(p => !ProofReaders.MaySee(p.Part, p.Owner, context.Caller)).Select(p => p.Id).ToHashSet();
    }
}
