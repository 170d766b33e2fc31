using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Access;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Access;
using WideKeel.Store.People;

namespace WideKeel.Server.Access;

/// <summary>
/// Carries the removals of a round out and says what came of them: a line is applied only where its person reaches what it
/// is about by no way any more.
/// </summary>
internal sealed class ReviewOutcomes(WriteSession session, AccessGround ground, OrganisationCalendar calendar)
{
    /// <summary>So often a removal is asked for before it is left to a person.</summary>
    public const int MostAttempts = 3;

    private const string Waiting = "The directory has not answered yet.";

    /// <summary>What takes whose access, by the directory as this transaction has it.</summary>
    public async Task<Removals> RemovalsNowAsync(CancellationToken cancel) =>
        AccessGround.RemovalsOf(await StateNowAsync(cancel), calendar.Today);

    private Task<DirectoryState> StateNowAsync(CancellationToken cancel) =>
        DirectoryRows.StateAsync(session.Db, null, cancel);

    /// <summary>
    /// Asks the directory for the chosen changes of every removal that is not applied yet. One that several lines chose is
    /// asked for once, and one that the directory shows already is not asked for.
    /// </summary>
    public async Task CarryOutAsync(AccessReview review, ReviewRound round)
    {
        var carrier = session.Services.GetRequiredService<DirectoryCarrier>();
        var state = await StateNowAsync(CancellationToken.None);
        var before = await WaitingAsync(round, CancellationToken.None);
        HashSet<DirectoryChange> asked = [];
        foreach (var line in Open(round).Where(l => !before.Contains(l.Id)))
        {
            var missing = ReviewRounds.ChosenOf(line).Where(c => !c.IsShownBy(state)).ToList();
            (line.Failure, line.Attempts) = missing.Count == 0 ? (null, line.Attempts) : (Waiting, line.Attempts + 1);
            foreach (var change in missing.Where(asked.Add))
            {
                carrier.Ask(
                    session,
                    change,
                    $"review {review.Id}, round {round.Number}",
                    ReviewLineFollower.Word,
                    line.Id
                );
            }
        }

        if (before.Count + asked.Count == 0)
        {
            Settle(round, state);
            Finish(review, round);
        }
    }

    /// <summary>The removals that are not applied; one that was stays so, whatever is granted later.</summary>
    private static IEnumerable<ReviewLine> Open(ReviewRound round) =>
        round.Lines.Where(l => l.Decision == LineDecision.Remove && !l.Applied);

    /// <summary>The lines of a round of which a change waits for the directory's answer.</summary>
    private async Task<IReadOnlySet<long>> WaitingAsync(ReviewRound round, CancellationToken cancel)
    {
        var lines = round.Lines.Select(l => l.Id).ToHashSet();
        var asked = await session
            .Db.DirectoryIntents.Where(i => i.CameOutAt == null && i.Follower == ReviewLineFollower.Word)
            .Select(i => i.SubjectId)
            .ToListAsync(cancel);
        return asked.Where(lines.Contains).ToHashSet();
    }

    /// <summary>
    /// Writes down what the directory said to one change. With the last one of the round, access is computed anew.
    /// </summary>
    public async Task CameOutAsync(DirectoryIntent intent, CancellationToken cancel)
    {
        var round = await session
            .Db.ReviewRounds.Include(r => r.Lines)
            .SingleAsync(r => r.Lines.Any(l => l.Id == intent.SubjectId), cancel);
        var line = round.Lines.Single(l => l.Id == intent.SubjectId);
        // Of several changes of a line the one that failed is named.
        line.Failure = intent.Failure ?? line.Failure;
        await session.Db.SaveChangesAsync(cancel);
        if ((await WaitingAsync(round, cancel)).Count > 0)
        {
            return;
        }

        var state = await StateNowAsync(cancel);
        Settle(round, state);
        Finish(await session.Db.Reviews.SingleAsync(r => r.Id == round.ReviewId, cancel), round);
        round.Version++;
    }

    private void Settle(ReviewRound round, DirectoryState state)
    {
        var removals = AccessGround.RemovalsOf(state, calendar.Today);
        foreach (var line in Open(round))
        {
            var left = removals.Ways(line.Person, line.What, line.Roles.Split(' '));
            var chosen = ReviewRounds.ChosenOf(line);
            line.Applied = left.Count == 0;
            if (left.Count == 0)
            {
                line.Failure = null;
            }
            else if (chosen.All(c => c.IsShownBy(state)))
            {
                // What was decided is done; the rest is a decision of its own, and asking again changes nothing.
                line.Attempts = Math.Max(line.Attempts, MostAttempts);
                line.Failure =
                    (chosen.Count == 0 ? "Nothing that concerns this person alone takes it" : "Removed as decided")
                    + $"; still reached by {Wording.Plural(left.Count, chosen.Count == 0 ? "way" : "other way")}: "
                    + string.Join(" → ", left[0].Path.Select(NameOf))
                    + ".";
            }
            else if (line.Failure is null or Waiting)
            {
                line.Failure = "The directory does not show the change.";
            }
        }
    }

    private string NameOf(string id) =>
        id == EffectiveAccess.Organisation
            ? "the organisation"
            : ground.State.People.FirstOrDefault(p => p.Id == id)?.Name
                ?? ground.State.Resources.FirstOrDefault(r => r.Id == id)?.Name
                ?? id;

    /// <summary>
    /// Freezes the report and informs of the end; later outcomes are added to it, and it stays as it is.
    /// </summary>
    public void Finish(AccessReview review, ReviewRound round)
    {
        if (round.ReportHash.Length > 0)
        {
            ReviewReport.Add(session, round);
            return;
        }

        ReviewReport.Freeze(session, review, round);
        Inform(review, round, ReviewRounds.DefinitionOf(review));
    }

    /// <summary>Says how a round ended to those who are to know.</summary>
    private void Inform(AccessReview review, ReviewRound round, ReviewDefinition definition)
    {
        var removed = round.Lines.Count(l => l.Decision == LineDecision.Remove);
        var stamped = ReviewRounds.StampedBy(round);
        foreach (var mail in definition.Informed)
        {
            Outbox.Send(
                session,
                new DirectoryPerson { Name = NameOf(mail), Mail = mail },
                null,
                new(
                    "review-ended",
                    $"{definition.Name}: round {Wording.Number(round.Number)} has ended",
                    $"{Wording.Plural(round.Lines.Count, "line")}: "
                        + $"{Wording.Number(round.Lines.Count(l => l.Decision == LineDecision.Keep))} kept, "
                        + $"{Wording.Number(removed)} removed, of which "
                        + $"{Wording.Number(round.Lines.Count(l => l.Applied))} are carried out. "
                        + $"{Wording.Number(round.Lines.Count(l => l.BySilence))} were decided by silence."
                        + (
                            stamped.Count == 0 ? "" : $" Kept everything without looking: {string.Join(", ", stamped)}."
                        ),
                    "the review informs you of its end"
                ),
                $"/access/reviews?review={Wording.Id(review.Id)}"
            );
        }
    }

    /// <summary>Removals that the directory did not carry out are asked for again, a few times.</summary>
    public async Task RetryAsync(CancellationToken cancel)
    {
        var rounds = await session
            .Db.ReviewRounds.Include(r => r.Lines)
            .Where(r =>
                r.EndedAt != null
                && r.Lines.Any(l => l.Failure != null && l.Attempts > 0 && l.Attempts < MostAttempts && !l.Applied)
            )
            .ToListAsync(cancel);
        foreach (var round in rounds)
        {
            var review = await session.Db.Reviews.SingleAsync(r => r.Id == round.ReviewId, cancel);
            await CarryOutAsync(review, round);
        }
    }
}

/// <summary>Writes down with a line of a review what the directory said to its removal.</summary>
internal sealed class ReviewLineFollower(AccessGround ground, OrganisationCalendar calendar) : IDirectoryFollower
{
    public const string Word = "review-line";

    public string Name => Word;

    public Task CameOutAsync(WriteSession session, DirectoryIntent intent, CancellationToken cancel) =>
        new ReviewOutcomes(session, ground, calendar).CameOutAsync(intent, cancel);
}
