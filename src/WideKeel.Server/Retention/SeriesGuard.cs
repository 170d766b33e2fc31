using System.Globalization;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;
using WideKeel.Server.SignIn;
using WideKeel.Store;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>What stands between a draft and its series, by whatever way the draft comes: screen, API or spreadsheet.</summary>
internal static class SeriesGuard
{
    /// <summary>The refusal of a draft that would loosen what can only be tightened, or null. An attempt is in the ledger all the same.</summary>
    public static async Task<Refusal?> CheckAsync(WriteSession session, Series series, SeriesDefinition draft, Caller caller)
    {
        if (series.State == SeriesState.Retired)
        {
            return new("series-retired", null, $"{series.Code} is retired; its last version stands.");
        }

        if (draft.Grade == Grade.Worm && (await session.Db.Organisations.AsNoTracking().SingleAsync()).WormEnabledAt is null)
        {
            return new("worm-not-enabled", "grade", "WORM is not enabled for this organisation. An administrator asks for it under Administration, and a second person agrees.");
        }

        var unknown = draft.Authorities.Except(await session.Db.Authorities.Where(a => draft.Authorities.Contains(a.Code)).Select(a => a.Code).ToListAsync()).FirstOrDefault();
        if (unknown is not null)
        {
            return new("authority-unknown", "authorities", $"There is no authority {unknown}. Add it first.");
        }

        if (series.InForce is not { } inForce || Guard(inForce) is not { } guard)
        {
            return null;
        }

        var loosens = inForce.Ratchet && !draft.Ratchet ? "the ratchet is taken off" : Ratchet.Loosens(inForce.Check(series.Code).Value, draft.Check(series.Code).Value);
        if (loosens is null)
        {
            return null;
        }

        session.RecordAttempt("loosening-refused", new("series", series.Id.ToString(CultureInfo.InvariantCulture), caller.PathOf(series.UnitId).Value), loosens);
        return new("ratchet", null, $"{series.Code} {guard} and can be tightened, never loosened: {loosens}. Nothing was changed; the attempt is in the ledger.");
    }

    /// <summary>Why a second person must agree to this draft, or null.</summary>
    public static string? SecondPerson(Series series, SeriesDefinition draft) =>
        series.InForce is { Grade: Grade.Declared } inForce && Ratchet.Loosens(inForce.Check(series.Code).Value, draft.Check(series.Code).Value) is { } loosens
            ? $"its items are declared records, and {loosens}"
            : null;

    private static string? Guard(SeriesDefinition inForce) => inForce.Grade == Grade.Worm ? "is WORM" : inForce.Ratchet ? "is under a ratchet" : null;
}
