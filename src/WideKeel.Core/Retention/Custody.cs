using NodaTime;
using WideKeel.Core.Content;

namespace WideKeel.Core.Retention;

/// <summary>What a change takes from the custody of one item.</summary>
[Flags]
public enum CustodyEffects
{
    None = 0,

    /// <summary>
    /// It is destroyed without sign-off, and may be sooner than before. What is due so already does not become so again.
    /// </summary>
    MadeDue = 1,

    /// <summary>
    /// The same of an item that something ruled before: one person alone may not do that. Putting under a rule what no
    /// rule kept is filing, which the persons of the rule have agreed to.
    /// </summary>
    SoonerUnsigned = 2,

    /// <summary>A record that stands as declared, or under WORM, is kept for a shorter time.</summary>
    RecordShortened = 4,

    /// <summary>It was kept, and now has neither a keep-until date nor a sign-off.</summary>
    ProtectionEnded = 8,
}

/// <summary>Some items that lose custody by a change: how many, and how large.</summary>
public readonly record struct CustodyTally(long Items, long Bytes)
{
    public static CustodyTally operator +(CustodyTally one, CustodyTally other) =>
        new(one.Items + other.Items, one.Bytes + other.Bytes);
}

/// <summary>All that a change takes from custody; one person alone may take nothing.</summary>
public readonly record struct CustodyLoss(
    CustodyTally SoonerUnsigned,
    CustodyTally RecordsShortened,
    CustodyTally ProtectionEnded
)
{
    public bool IsNothing => this == default;

    public CustodyLoss Plus(CustodyEffects effects, long bytes)
    {
        return this
            + new CustodyLoss(
                Of(CustodyEffects.SoonerUnsigned),
                Of(CustodyEffects.RecordShortened),
                Of(CustodyEffects.ProtectionEnded)
            );

        CustodyTally Of(CustodyEffects effect) => effects.HasFlag(effect) ? new(1, bytes) : default;
    }

    public static CustodyLoss operator +(CustodyLoss one, CustodyLoss other) =>
        new(
            one.SoonerUnsigned + other.SoonerUnsigned,
            one.RecordsShortened + other.RecordsShortened,
            one.ProtectionEnded + other.ProtectionEnded
        );
}

/// <summary>
/// Which changes one person alone may not make, told by what happens to the items and not by the kind of change: a
/// filing, an event, a fiscal year and a rule come to the same.
/// </summary>
public static class Custody
{
    /// <param name="before">What was written of the item; its state is not looked at.</param>
    /// <param name="after">What is said of it now; its state is not looked at.</param>
    public static CustodyEffects Of(in Standing before, in Standing after, LocalDate today)
    {
        var effects = OfTerm(before, after, today);
        if (after is not { AtEnd: EndAction.Destroy, DisposableFrom: { } from } || IsDueBy(before, from, today))
        {
            return effects;
        }

        var ruled = !before.KeepUntil.IsNothing || before.AtEnd != EndAction.Nothing;
        return effects | CustodyEffects.MadeDue | (ruled ? CustodyEffects.SoonerUnsigned : CustodyEffects.None);
    }

    private static CustodyEffects OfTerm(in Standing before, in Standing after, LocalDate today)
    {
        if (after.KeepUntil >= before.KeepUntil)
        {
            return CustodyEffects.None;
        }

        var shortened = before.GradeOn(today) >= Grade.Declared ? CustodyEffects.RecordShortened : CustodyEffects.None;
        return
            before.Keeps(today)
            && !after.Keeps(today)
            && after is { DisposableFrom: null } or { AtEnd: EndAction.Nothing }
            ? shortened | CustodyEffects.ProtectionEnded
            : shortened;
    }

    /// <summary>Nobody would have signed for it before either, and it was due by then or is so already.</summary>
    private static bool IsDueBy(in Standing before, LocalDate day, LocalDate today) =>
        before is { AtEnd: EndAction.Destroy, DisposableFrom: { } was } && (was <= day || was <= today);
}
