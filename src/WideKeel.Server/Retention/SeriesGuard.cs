using System.Globalization;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>
/// What stands between a draft and its series, by whatever way the draft comes: screen, API or spreadsheet.
/// </summary>
internal static class SeriesGuard
{
    /// <summary>
    /// The refusal of a draft that would loosen what can only be tightened, or null. An attempt is in the ledger all
    /// the same.
    /// </summary>
    public static async Task<Refusal?> CheckAsync(
        WriteSession session,
        Series series,
        SeriesDefinition draft,
        Caller caller
    )
    {
        if (series.State == SeriesState.Retired)
        {
            return Refusal.Conflict("series-retired", null, $"{series.Code} is retired; its last version stands.");
        }

        if (BecomesWorm(series, draft) && await WormRefusalAsync(session, series) is { } worm)
        {
            return worm;
        }

        var unknown =
            draft.Authorities.Count == 0
                ? null
                : draft
                    .Authorities.Except(
                        await session
                            .Db.Authorities.Where(a => draft.Authorities.Contains(a.Code))
                            .Select(a => a.Code)
                            .ToListAsync()
                    )
                    .FirstOrDefault();
        if (unknown is not null)
        {
            return new("authority-unknown", "authorities", $"There is no authority {unknown}. Add it first.");
        }

        if (series.InForce is not { } inForce || Guard(inForce) is not { } guard)
        {
            return null;
        }

        var loosens =
            inForce.Ratchet && !draft.Ratchet
                ? "the ratchet is taken off"
                : Ratchet.Loosens(inForce.Check(series.Code).Value, draft.Check(series.Code).Value);
        if (loosens is null)
        {
            return null;
        }

        session.RecordAttempt(
            "loosening-refused",
            new("series", series.Id.ToString(CultureInfo.InvariantCulture), caller.PathOf(series.UnitId).Value),
            loosens
        );
        return Refusal.Forbidden(
            "ratchet",
            null,
            $"{series.Code} {guard} and can be tightened, never loosened: {loosens}. Nothing was changed; the attempt is in the ledger."
        );
    }

    /// <summary>The draft would put what is filed under the series under WORM, which it is not yet.</summary>
    public static bool BecomesWorm(Series series, SeriesDefinition draft) =>
        draft.Grade == Grade.Worm && series.InForce?.Grade != Grade.Worm;

    /// <summary>Every time something comes under WORM it is said again.</summary>
    public static Refusal Unconfirmed(string code) =>
        new(
            "confirmation-needed",
            "confirmed",
            $"{code} is WORM: what is under it can never be taken off, changed or deleted before its term is "
                + $"over. Confirm that this is meant."
        );

    /// <summary>
    /// WORM is enabled first, and nothing comes under it by conditions, however long ago they filed it.
    /// </summary>
    private static async Task<Refusal?> WormRefusalAsync(WriteSession session, Series series)
    {
        if ((await session.Db.Organisations.AsNoTracking().SingleAsync()).WormEnabledAt is null)
        {
            return new(
                "worm-not-enabled",
                "grade",
                "WORM is not enabled for this organisation. Somebody asks for it under Organisation, in the "
                    + "person's menu, and a second person agrees."
            );
        }

        var rule = await session
            .Db.FilingRules.Where(r => r.SeriesId == series.Id && r.State == FilingRuleState.Active)
            .Select(r => r.Name)
            .FirstOrDefaultAsync();
        var filed =
            series.Id == 0
                ? 0
                : await session.Db.Items.LongCountAsync(i =>
                    i.SeriesId == series.Id && i.FiledHow == FiledHow.Rule && i.DestroyedAt == null
                );
        return rule is null && filed == 0
            ? null
            : new(
                "rule-files-worm",
                "grade",
                rule is not null
                    ? $"The filing rule “{rule}” files under {series.Code}. Nothing comes under WORM by conditions; "
                        + "stop the rule first."
                    : string.Create(
                        CultureInfo.InvariantCulture,
                        $"{filed:N0} of its items {(filed == 1 ? "was" : "were")} filed by a rule. Nothing "
                            + $"comes under WORM by conditions; file {(filed == 1 ? "it" : "them")} by hand first, "
                            + $"under another series and back."
                    )
            );
    }

    /// <summary>Why a second person must agree to this draft, or null.</summary>
    public static string? SecondPerson(Series series, SeriesDefinition draft)
    {
        var loosens = series.InForce is { } inForce
            ? Ratchet.Loosens(inForce.Check(series.Code).Value, draft.Check(series.Code).Value)
            : null;
        return series.InForce?.Grade == Grade.Declared && loosens is not null
                ? $"its items are declared records, and {loosens}"
            : draft.AtEnd != EndAction.Destroy ? null
            : series.InForce?.AtEnd != EndAction.Destroy ? "it destroys without sign-off"
            : loosens is not null ? $"it destroys without sign-off, and {loosens}"
            : null;
    }

    /// <summary>
    /// Why a second person must agree to this draft, or null: a blanket that destroys without sign-off is put into
    /// effect, widened or shortened by two.
    /// </summary>
    public static string? SecondPerson(Blanket blanket, BlanketDefinition draft) =>
        draft.DestroysUnsigned && blanket.InForce?.RulesAs(draft) != true ? "it destroys without sign-off" : null;

    private static string? Guard(SeriesDefinition inForce) =>
        inForce.Grade == Grade.Worm ? "is WORM"
        : inForce.Ratchet ? "is under a ratchet"
        : null;
}
