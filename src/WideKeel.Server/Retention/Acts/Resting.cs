using System.Globalization;
using Microsoft.EntityFrameworkCore;

namespace WideKeel.Server.Retention;

/// <summary>The revisions of what acts of the schedule read, by names that a person knows.</summary>
internal static class Resting
{
    public static Task<IReadOnlyDictionary<string, string>> OnSeriesAsync(ActGround ground, long id) =>
        OnAsync(
            ground.Db.Series.Where(s => s.Id == id).Select(s => new KeyValuePair<string, long>(s.Code, s.Revision)),
            ground.Cancel
        );

    public static Task<IReadOnlyDictionary<string, string>> OnBlanketAsync(ActGround ground, long id) =>
        OnAsync(
            ground
                .Db.Blankets.Where(b => b.Id == id)
                .Select(b => new KeyValuePair<string, long>($"The blanket “{b.Name}”", b.Revision)),
            ground.Cancel
        );

    private static async Task<IReadOnlyDictionary<string, string>> OnAsync(
        IQueryable<KeyValuePair<string, long>> revisions,
        CancellationToken cancel
    ) =>
        (await revisions.ToListAsync(cancel)).ToDictionary(
            r => r.Key,
            r => r.Value.ToString(CultureInfo.InvariantCulture)
        );
}
