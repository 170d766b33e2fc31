using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.Ledger;
using WideKeel.Store;
using WideKeel.Store.Access;

namespace WideKeel.Server.Access;

/// <summary>Finds reviews and rounds, and changes them in one transaction.</summary>
internal static class ReviewWork
{
    public static IQueryable<AccessReview> Whole(WideKeelDb db) =>
        db.Reviews.Include(r => r.Rounds).ThenInclude(r => r.Lines).AsSplitQuery();

    public static Task<ReviewRound?> FindAsync(long id, int number, WideKeelDb db, CancellationToken cancel) =>
        db
            .ReviewRounds.AsNoTracking()
            .Include(r => r.Lines)
            .SingleOrDefaultAsync(r => r.ReviewId == id && r.Number == number, cancel);

    public static async Task<Reply<Done>> ChangeAsync(
        long id,
        ApiContext context,
        Func<WriteSession, AccessReview, Task<Refusal?>> work
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await Whole(session.Db).SingleOrDefaultAsync(r => r.Id == id, context.Cancel) is not { } review)
                {
                    return Problems.NotFound("review");
                }

                if (await work(session, review) is { } refusal)
                {
                    return refusal;
                }

                review.Version++;
                return new Done();
            },
            context.Cancel
        );

    public static Task<Reply<Done>> RoundAsync(
        long id,
        int number,
        ApiContext context,
        Func<WriteSession, AccessReview, ReviewRound, Task<Refusal?>> work,
        bool ended = false
    ) =>
        ChangeAsync(
            id,
            context,
            async (session, review) =>
            {
                if (review.Rounds.Find(r => r.Number == number) is not { } round)
                {
                    return Problems.NotFound("round");
                }

                if (round.EndedAt is not null != ended)
                {
                    return Refusal.Conflict(
                        ended ? "round-running" : "round-ended",
                        null,
                        ended ? "The round is still running." : "The round has ended."
                    );
                }

                round.Version++;
                return await work(session, review, round);
            }
        );

    /// <summary>The same with what runs rounds.</summary>
    public static Task<Reply<Done>> RunAsync(
        long id,
        int number,
        AccessGround ground,
        ApiContext context,
        Func<ReviewRounds, AccessReview, ReviewRound, Task<Refusal?>> work
    ) =>
        RoundAsync(
            id,
            number,
            context,
            (session, review, round) => work(new ReviewRounds(session, ground, context.Calendar), review, round)
        );

    /// <summary>Whether somebody can be asked: the directory has them and they have not left, or they can sign in.</summary>
    public static async Task<bool> IsThereAsync(WideKeelDb db, AccessGround ground, string mail, ApiContext context)
    {
        if (
            ground.State.People.FirstOrDefault(p => string.Equals(p.Id, mail, StringComparison.OrdinalIgnoreCase)) is
            { } known
        )
        {
            return !(AccessGround.DayOf(known.Left) <= context.Calendar.Today) && !known.Suspended;
        }

        var upper = mail.ToUpperInvariant();
        return await db.Users.AnyAsync(u => u.Active && u.NormalizedEmail == upper, context.Cancel);
    }

    public static LedgerSubject Subject(long id) => LedgerSubject.Of("review", id);
}
