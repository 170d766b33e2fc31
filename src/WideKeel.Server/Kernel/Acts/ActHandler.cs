using System.Text.Json;
using WideKeel.Core;
using WideKeel.Store;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Kernel;

/// <summary>Figures of consequences, which a person has seen or has not.</summary>
public interface IFigures
{
    /// <summary>Of the figures alone: the same for everybody who sees them.</summary>
    string Fingerprint { get; }

    /// <summary>What is different from figures that were stored, in words.</summary>
    string DifferenceFrom(string stored);
}

/// <summary>Who asked for an act that the caller agrees to.</summary>
public sealed record Asker(long PersonId, string Name, string Why);

/// <summary>What an act reads: the database, and the organisation's calendar.</summary>
public record ActGround(WideKeelDb Db, OrganisationCalendar Calendar, CancellationToken Cancel);

/// <summary>What an act is written with: one transaction, and who makes it.</summary>
/// <param name="Asker">Who asked for it, where the caller is the second person; null where the caller acts alone.</param>
public sealed record ActContext(
    WriteSession Session,
    Caller Caller,
    OrganisationCalendar Calendar,
    CancellationToken Cancel,
    Asker? Asker = null
) : ActGround(Session.Db, Calendar, Cancel)
{
    /// <summary>The names of those who make it.</summary>
    public string By => Asker is null ? Caller.Name : $"{Asker.Name} and {Caller.Name}";

    /// <summary>A reason as it is kept: with the name of who gave it, where that is not the one who acts.</summary>
    public string Why(string own) => Asker is null ? own.Trim() : $"{Asker.Why} (asked by {Asker.Name})";
}

/// <summary>What a proposal is called, and whose it is.</summary>
/// <param name="Title">What would be done, as a sentence without its subject.</param>
/// <param name="Unit">Path of the unit that it concerns.</param>
public sealed record ActSubject(string Title, string Unit);

/// <summary>One part of what an act changes, in words.</summary>
/// <param name="Before">Null where it is new.</param>
/// <param name="After">Null where it goes.</param>
public sealed record ActPart(string Name, string? Before, string? After);

/// <summary>What the second person looks at: all that would change, and the consequences as they are now.</summary>
/// <param name="Figures">Null for an act that has none.</param>
public sealed record ActDetail(IReadOnlyList<ActPart> Parts, IFigures? Figures);

/// <summary>A kind of act as the proposals know it, which run one that they stored.</summary>
public interface IActHandler : IContribution
{
    /// <summary>Stored with proposals: it stays what it is.</summary>
    string Name { get; }

    /// <summary>Whether a person may agree to such an act in a unit.</summary>
    bool MayAgree(Caller caller, string unit);

    /// <summary>The revisions of what the act reads, now; what is gone is missing.</summary>
    Task<IReadOnlyDictionary<string, string>> RestsOnAsync(ActGround ground, string act);

    Task<ActDetail> DescribeAsync(ActGround ground, string act);

    /// <summary>Runs the act anew, as its asker and the caller together.</summary>
    /// <param name="asker">Who asked, with the rights of today.</param>
    Task<Refusal?> AgreeAsync(ActContext context, Proposal proposal, Caller asker);
}

/// <summary>
/// Answers apart what there is to say of one kind of act. It keeps nothing: the runner asks it, for a person who acts
/// alone and for the second person alike.
/// </summary>
/// <typeparam name="TAct">The act: a typed, immutable command that is stored as JSON where it waits.</typeparam>
public abstract class ActHandler<TAct, TResult> : IActHandler
    where TAct : class
{
    public abstract string Name { get; }

    public abstract bool MayAgree(Caller caller, string unit);

    public abstract Task<ActSubject> SubjectAsync(ActContext context, TAct act);

    /// <summary>Why the caller of the context may not do it, or it cannot be done; null where nothing stands against it.</summary>
    public abstract Task<Refusal?> CheckAsync(ActContext context, TAct act);

    /// <summary>The revisions of what the act reads; what is gone is missing.</summary>
    public abstract Task<IReadOnlyDictionary<string, string>> RestsOnAsync(ActGround ground, TAct act);

    /// <summary>The consequences that the screen shows; null for an act that has none.</summary>
    public virtual Task<IFigures?> FiguresAsync(ActGround ground, TAct act) => Task.FromResult<IFigures?>(null);

    /// <summary>
    /// Why a second person must agree besides what the runner tells from the items; null where nothing more asks for one.
    /// </summary>
    public virtual Task<string?> SecondPersonAsync(ActContext context, TAct act) => Task.FromResult<string?>(null);

    /// <summary>All that changes, in words.</summary>
    public abstract Task<IReadOnlyList<ActPart>> PartsAsync(ActGround ground, TAct act);

    /// <summary>The act as it is stored: what it finds by a query is settled, so that it is done to nothing else.</summary>
    public virtual Task<TAct> SettleAsync(ActContext context, TAct act) => Task.FromResult(act);

    /// <summary>Writes it, with its entries in the ledger.</summary>
    /// <param name="figures">As <see cref="FiguresAsync"/> gave them.</param>
    public abstract Task<Outcome<TResult>> WriteAsync(ActContext context, TAct act, IFigures? figures);

    public Task<IReadOnlyDictionary<string, string>> RestsOnAsync(ActGround ground, string act) =>
        RestsOnAsync(ground, Read(act));

    public async Task<ActDetail> DescribeAsync(ActGround ground, string act)
    {
        var read = Read(act);
        return new(await PartsAsync(ground, read), await FiguresAsync(ground, read));
    }

    public async Task<Refusal?> AgreeAsync(ActContext context, Proposal proposal, Caller asker)
    {
        var act = Read(proposal.Act);
        if (await CheckAsync(context with { Caller = asker, Asker = null }, act) is { } lost)
        {
            return lost with { Sentence = $"{proposal.AskedBy} asked for it, and now: {lost.Sentence}" };
        }

        if (await CheckAsync(context, act) is { } refusal)
        {
            return refusal;
        }

        var figures = await FiguresAsync(context, act);
        if ((figures?.Fingerprint ?? "") != proposal.Digest)
        {
            return Refusal.Conflict(
                "consequences-changed",
                null,
                $"The consequences have changed since {proposal.AskedBy} asked: {figures?.DifferenceFrom(proposal.Consequences)}. "
                    + $"Nothing was done. Decline, so that {proposal.AskedBy} can ask again."
            );
        }

        return (await WriteAsync(context, act, figures)).Refusal;
    }

    protected static TAct Read(string act) => JsonSerializer.Deserialize<TAct>(act, Json.Options)!;
}
