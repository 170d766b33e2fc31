using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Disposition;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Store;
using WideKeel.Store.Disposition;
using WideKeel.Store.People;

namespace WideKeel.Server.Disposition;

/// <summary>
/// The stage of a batch that waits: who must sign it, and by when. Today, mail, reminders, the calendar and the batch's
/// page go by it.
/// </summary>
/// <param name="Number">Of the stage, from 0.</param>
/// <param name="By">The last day on which it is not overdue.</param>
internal sealed record SigningDuty(Batch Batch, int Number, LocalDate Since, LocalDate By)
{
    private Stage Asked => Batch.Ruler.Stages[Number];

    public int Stages => Batch.Ruler.Stages.Count;

    public string Link => $"/schedule/docket?batch={Batch.Id}";

    public bool IsOverdue(LocalDate today) => By < today;

    /// <summary>Whether this is a day on which signers are reminded.</summary>
    public bool Reminds(LocalDate today) => SignOffRules.Reminds(Asked, Since, today);

    /// <summary>Null where no stage waits.</summary>
    /// <param name="batch">With its ruler and its signatures.</param>
    public static SigningDuty? Of(Batch batch, OrganisationCalendar calendar)
    {
        var (signed, stages) = (batch.SignOffs.Count, batch.Ruler.Stages);
        if (batch.State is not (BatchState.Open or BatchState.Signing) || signed >= stages.Count)
        {
            return null;
        }

        var since = calendar.DateOf(batch.StageSince);
        return new(batch, signed, since, SignOffRules.OverdueFrom(stages[signed], since).PlusDays(-1));
    }

    /// <summary>All that wait.</summary>
    public static async Task<IReadOnlyList<SigningDuty>> AllAsync(
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        [
            .. (
                await db
                    .Batches.WithRuler()
                    .Include(b => b.SignOffs)
                    .Where(b => b.State == BatchState.Open || b.State == BatchState.Signing)
                    .OrderBy(b => b.Id)
                    .ToListAsync(cancel)
            )
                .Select(b => Of(b, calendar))
                .OfType<SigningDuty>(),
        ];

    /// <summary>Why this person may not sign the batch's next stage now; null when they may.</summary>
    /// <param name="questions">How many of its lines wait for somebody's answer.</param>
    public static Refusal? MayNotSign(Batch batch, Caller caller, OrganisationCalendar calendar, int questions = 0) =>
        SignOffRules.MaySign(
            batch.State,
            batch.Ruler.Stages,
            [.. batch.SignOffs.Select(s => new Signature(s.Stage, s.PersonId))],
            caller.Signer,
            caller.PathOf(batch.Ruler.UnitId),
            Of(batch, calendar)?.IsOverdue(calendar.Today) ?? false,
            questions
        );

    /// <summary>
    /// Whom it waits for: the named person or, with none, all who hold its role over the unit and have not signed yet.
    /// </summary>
    /// <param name="deputies">The deputy of the stage instead, who may sign once it is overdue.</param>
    public async Task<List<Person>> SignersAsync(WideKeelDb db, bool deputies, CancellationToken cancel)
    {
        var named = deputies ? Asked.Deputy : Asked.Person;
        if (named.Length == 0 && deputies)
        {
            return [];
        }

        var unit = new UnitPath(
            await db.Units.Where(u => u.Id == Batch.Ruler.UnitId).Select(u => u.Path).SingleAsync(cancel)
        );
        var people = await db
            .Users.Include(p => p.Remits)
                .ThenInclude(r => r.Unit)
            .Where(p => p.Active && p.Remits.Any(r => r.Role == Asked.Role))
            .ToListAsync(cancel);
        return
        [
            .. people.Where(p =>
                p.Remits.Any(r => r.Role == Asked.Role && new UnitPath(r.Unit!.Path).Covers(unit))
                && Batch.SignOffs.All(s => s.PersonId != p.Id)
                && (named.Length == 0 || string.Equals(p.Email, named, StringComparison.OrdinalIgnoreCase))
            ),
        ];
    }
}
