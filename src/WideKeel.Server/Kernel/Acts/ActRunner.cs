using System.Text.Json;
using WideKeel.Core;
using WideKeel.Core.Retention;
using WideKeel.Store;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Kernel;

/// <summary>What came of an act: it was done, or it waits for a second person.</summary>
/// <param name="Value">Null where it waits.</param>
/// <param name="ProposalId">Null where it was done.</param>
public sealed record ActDone<T>(T? Value, IFigures? Figures, long? ProposalId = null, string? Condition = null)
{
    /// <summary>The answer of an address that has nothing else to say of an act that waits.</summary>
    public Refusal Waits =>
        new(
            ActRunner.AskedCode,
            null,
            $"A second person must approve: {Condition}. The request is on their Today page."
        )
        {
            Kind = RefusalKind.Asked,
        };
}

/// <summary>Where acts wait for a second person.</summary>
public interface IProposalBook
{
    /// <summary>Notes an act that waits, and informs those who may agree.</summary>
    /// <returns>Its id.</returns>
    Task<long> AddAsync(ActContext context, IActHandler handler, Proposal proposal);

    /// <summary>Closes, with a reason, what nobody can agree to any more.</summary>
    Task CloseOvertakenAsync(ActContext context);
}

/// <summary>
/// The one way for an act to happen, for every caller: it is checked, compared with what was seen, written, and what it does
/// to the items is looked at before it is committed. Where one person alone may not do that, it is taken back within the
/// transaction, and the act waits for a second one.
/// </summary>
public static class ActRunner
{
    public const string AskedCode = "second-person-asked";

    /// <summary>Runs an act in a transaction of its own.</summary>
    /// <param name="why">The reason that was given; needed where a second person must agree.</param>
    /// <param name="seen">Fingerprint of the figures that were on screen; null where the act was asked for without looking.</param>
    public static Task<Outcome<ActDone<TResult>>> RunAsync<TAct, TResult>(
        ActHandler<TAct, TResult> handler,
        TAct act,
        ApiContext api,
        string? why,
        string? seen
    )
        where TAct : class =>
        api.Writer.RunAsync(
            api.Caller.Actor,
            session => RunAsync(new ActContext(session, api.Caller, api.Calendar, api.Cancel), handler, act, why, seen),
            api.Cancel
        );

    /// <summary>Runs an act within a transaction.</summary>
    public static async Task<Outcome<ActDone<TResult>>> RunAsync<TAct, TResult>(
        ActContext context,
        ActHandler<TAct, TResult> handler,
        TAct act,
        string? why,
        string? seen
    )
        where TAct : class
    {
        if (await handler.CheckAsync(context, act) is { } refusal)
        {
            return refusal;
        }

        var figures = await handler.FiguresAsync(context, act);
        if (seen is not null && figures is not null && figures.Fingerprint != seen)
        {
            return Moved;
        }

        var condition = await handler.SecondPersonAsync(context, act);
        if (condition is null)
        {
            var mark = await context.Session.MarkAsync(context.Cancel);
            var written = await handler.WriteAsync(context, act, figures);
            if (written.Refusal is { } not)
            {
                return not;
            }

            await context.Db.SaveChangesAsync(context.Cancel);
            condition = Condition(context.Session.Custody.Loss);
            if (condition is null)
            {
                await Book(context).CloseOvertakenAsync(context);
                return new ActDone<TResult>(written.Value, figures);
            }

            await context.Session.TakeBackAsync(mark, context.Cancel);
        }

        if (Problems.CheckWhy(why) is { } unsaid)
        {
            return unsaid with { Sentence = $"A second person must approve: {condition}. {unsaid.Sentence}" };
        }

        return new ActDone<TResult>(
            default,
            figures,
            await AskAsync(context, handler, act, why!.Trim(), condition),
            condition
        );
    }

    /// <summary>Why one person alone may not do what takes this from custody, or null where it takes nothing.</summary>
    public static string? Condition(in CustodyLoss loss)
    {
        List<string> conditions = [];
        Add(loss.SoonerUnsigned, "item", "{0} would be destroyed sooner, without sign-off");
        Add(loss.RecordsShortened, "declared record", "{0} would be kept for a shorter time");
        Add(loss.ProtectionEnded, "item", "{0} would lose protection");
        return conditions.Count == 0 ? null : string.Join("; ", conditions);

        void Add(CustodyTally tally, string word, string sentence)
        {
            if (tally.Items > 0)
            {
                conditions.Add(sentence.Replace("{0}", Wording.Plural(tally.Items, word), StringComparison.Ordinal));
            }
        }
    }

    private static async Task<long> AskAsync<TAct, TResult>(
        ActContext context,
        ActHandler<TAct, TResult> handler,
        TAct act,
        string why,
        string condition
    )
        where TAct : class
    {
        act = await handler.SettleAsync(context, act);
        var figures = await handler.FiguresAsync(context, act);
        var subject = await handler.SubjectAsync(context, act);
        return await Book(context)
            .AddAsync(
                context,
                handler,
                new()
                {
                    Kind = handler.Name,
                    Title = $"{subject.Title}: {condition}",
                    Act = JsonSerializer.Serialize(act, Json.Options),
                    RestsOn = JsonSerializer.Serialize(await handler.RestsOnAsync(context, act), Json.Options),
                    Consequences = figures is null ? "{}" : JsonSerializer.Serialize<object>(figures, Json.Options),
                    Digest = figures?.Fingerprint ?? "",
                    Unit = subject.Unit,
                    AskedById = context.Caller.PersonId,
                    AskedBy = context.Caller.Name,
                    AskedAt = context.Session.Now,
                    Why = why,
                }
            );
    }

    private static IProposalBook Book(ActContext context) =>
        context.Session.Services.GetRequiredService<IProposalBook>();

    private static Refusal Moved { get; } =
        Refusal.Conflict(
            "consequences-changed",
            "fingerprint",
            "The consequences have changed since you looked. Nothing was done; look again."
        );
}
