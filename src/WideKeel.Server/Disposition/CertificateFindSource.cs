using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;

namespace WideKeel.Server.Disposition;

/// <summary>Finds certificates by their number.</summary>
internal sealed class CertificateFindSource : IFindSource
{
    public async Task<IReadOnlyList<FindHit>> FindAsync(FindQuestion asked)
    {
        if (!asked.Caller.May(Right.ReadDocket))
        {
            return [];
        }

        var found = await asked
            .Db.Certificates.Where(c => c.Number.Contains(asked.Words))
            .OrderBy(c => c.Id)
            .Take(50)
            .Select(c => new
            {
                c.Id,
                c.Number,
                c.Title,
                c.UnitId,
            })
            .ToListAsync(asked.Cancel);
        return
        [
            .. found
                .Where(c => asked.Caller.May(Right.ReadDocket, c.UnitId))
                .Take(5)
                .Select(c => new FindHit(
                    "certificate",
                    $"Certificate {c.Number}",
                    c.Title,
                    $"/schedule/certificates?certificate={c.Id}"
                )),
        ];
    }
}
