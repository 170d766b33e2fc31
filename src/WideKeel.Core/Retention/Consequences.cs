using System.Runtime.InteropServices;
using NodaTime;
using WideKeel.Core.Content;

namespace WideKeel.Core.Retention;

/// <summary>What a change does to one item. An item can be in several groups.</summary>
[Flags]
public enum Effects
{
    None = 0,

    /// <summary>Due after the change, and not before.</summary>
    BecomesDue = 1,

    /// <summary>Kept for a shorter time than before, but still for some time or until a date.</summary>
    Sooner = 2,

    /// <summary>Kept for longer than before.</summary>
    Later = 4,

    /// <summary>Under no rule before, under one after.</summary>
    NewlyUnderRule = 8,

    /// <summary>Kept today before the change; nothing keeps it and nobody signs for it after.</summary>
    LosesProtection = 16,

    /// <summary>Due before and no longer due after.</summary>
    NoLongerDue = 32,

    /// <summary>It would become due, were it not for a hold.</summary>
    HeldBack = 64,

    /// <summary>Kept as long as before, and disposable earlier, or at all.</summary>
    DisposableSooner = 128,

    /// <summary>Kept as long as before, and disposable later, or no longer.</summary>
    DisposableLater = 256,

    /// <summary>Something else happens at the end; not said where a first rule brings an end with it.</summary>
    EndsOtherwise = 512,
}

/// <summary>Number of items and their bytes.</summary>
public readonly record struct Tally(long Items, long Bytes)
{
    public static Tally operator +(Tally one, Tally other) => new(one.Items + other.Items, one.Bytes + other.Bytes);

    public Tally Plus(long bytes) => new(Items + 1, Bytes + bytes);
}

/// <summary>Items that fall due in one month, before and after.</summary>
/// <param name="Month">First day of the month; items already due are counted in the month of "today". Held items are
/// left out.</param>
public readonly record struct MonthOfDue(LocalDate Month, long Before, long After);

/// <summary>Items of one container that the change touches at all, and how many of them become due.</summary>
public readonly record struct ContainerEffect(long ContainerId, long Items, long Changed, long BecomeDue);

/// <summary>The exact preview of a change: every item in reach, before and after.</summary>
public sealed record ConsequenceFigures(
    Tally InReach,
    Tally DueBefore,
    Tally DueAfter,
    Tally BecomeDue,
    Tally NoLongerDue,
    Tally Sooner,
    Tally Later,
    Tally NewlyUnderRule,
    Tally LoseProtection,
    Tally Unchanged,
    IReadOnlyList<MonthOfDue> ByMonth,
    IReadOnlyList<ContainerEffect> ByContainer,
    Tally HeldBack,
    Tally DisposableSooner,
    Tally DisposableLater,
    Tally EndsOtherwise
);

/// <summary>Adds up a change item by item; one pass, constant memory but for months and containers.</summary>
public sealed class Consequences(LocalDate today)
{
    private readonly Dictionary<int, (long Before, long After)> months = [];
    private readonly Dictionary<long, (long Items, long Changed, long BecomeDue)> containers = [];
    private Tally inReach,
        dueBefore,
        dueAfter,
        becomeDue,
        noLongerDue,
        sooner,
        later,
        newly,
        losing,
        unchanged,
        heldBack,
        disposableSooner,
        disposableLater,
        endsOtherwise;

    /// <summary>
    /// What one item's change amounts to. Pure: the same function picks the rows that a figure opens into.
    /// </summary>
    /// <param name="held">A hold forbids its disposal before and after.</param>
    public static Effects EffectsOf(in Standing before, in Standing after, LocalDate today, bool held = false)
    {
        var effects =
            held && after.State == ItemState.Due && before.State != ItemState.Due ? Effects.HeldBack : Effects.None;
        var wasDue = before.State == ItemState.Due && !held;
        var isDue = after.State == ItemState.Due && !held;
        if (isDue && !wasDue)
        {
            effects |= Effects.BecomesDue;
        }

        if (wasDue && !isDue)
        {
            effects |= Effects.NoLongerDue;
        }

        effects |= OfEnds(before.KeepUntil, after.KeepUntil);
        effects |= EndOf(before, after, newly: effects.HasFlag(Effects.NewlyUnderRule));
        if (!held && (before.Keeps(today) || wasDue) && !after.Keeps(today) && !isDue)
        {
            effects |= Effects.LosesProtection;
        }

        return effects;
    }

    private static Effects OfEnds(KeepUntil before, KeepUntil after) =>
        after.IsNothing ? Effects.None
        : before.IsNothing ? Effects.NewlyUnderRule
        : after.CompareTo(before) switch
        {
            < 0 => Effects.Sooner,
            > 0 => Effects.Later,
            _ => Effects.None,
        };

    /// <summary>Changes of the first day of disposal and of what happens then, where keep-until says nothing of them.</summary>
    private static Effects EndOf(in Standing before, in Standing after, bool newly)
    {
        var effects = before.AtEnd == after.AtEnd || newly ? Effects.None : Effects.EndsOtherwise;
        return before.KeepUntil != after.KeepUntil
            ? effects
            : effects
                | Compare(before.DisposableFrom, after.DisposableFrom) switch
                {
                    < 0 => Effects.DisposableSooner,
                    > 0 => Effects.DisposableLater,
                    _ => Effects.None,
                };
    }

    /// <summary>Negative where the first day comes earlier; no day at all is later than any.</summary>
    private static int Compare(LocalDate? before, LocalDate? after) =>
        (before, after) switch
        {
            ({ } was, { } becomes) => becomes.CompareTo(was),
            (null, not null) => -1,
            (not null, null) => 1,
            _ => 0,
        };

    /// <summary>Counts one item, and says what its change amounts to.</summary>
    public Effects Add(long containerId, long bytes, in Standing before, in Standing after, bool held = false)
    {
        var effects = EffectsOf(before, after, today, held);
        inReach = inReach.Plus(bytes);
        Count(ref dueBefore, before.State == ItemState.Due && !held, bytes);
        Count(ref dueAfter, after.State == ItemState.Due && !held, bytes);
        Count(ref heldBack, effects.HasFlag(Effects.HeldBack), bytes);
        Count(ref becomeDue, effects.HasFlag(Effects.BecomesDue), bytes);
        Count(ref noLongerDue, effects.HasFlag(Effects.NoLongerDue), bytes);
        Count(ref sooner, effects.HasFlag(Effects.Sooner), bytes);
        Count(ref later, effects.HasFlag(Effects.Later), bytes);
        Count(ref newly, effects.HasFlag(Effects.NewlyUnderRule), bytes);
        Count(ref losing, effects.HasFlag(Effects.LosesProtection), bytes);
        Count(ref disposableSooner, effects.HasFlag(Effects.DisposableSooner), bytes);
        Count(ref disposableLater, effects.HasFlag(Effects.DisposableLater), bytes);
        Count(ref endsOtherwise, effects.HasFlag(Effects.EndsOtherwise), bytes);
        Count(ref unchanged, effects == Effects.None, bytes);

        // What a hold forbids falls due in no month, here as in the figures.
        if (!held && before.DisposableFrom is { } was)
        {
            CollectionsMarshal.GetValueRefOrAddDefault(months, MonthNumber(was), out _).Before++;
        }

        if (!held && after.DisposableFrom is { } becomes)
        {
            CollectionsMarshal.GetValueRefOrAddDefault(months, MonthNumber(becomes), out _).After++;
        }

        ref var container = ref CollectionsMarshal.GetValueRefOrAddDefault(containers, containerId, out _);
        container.Items++;
        container.Changed += effects == Effects.None ? 0 : 1;
        container.BecomeDue += effects.HasFlag(Effects.BecomesDue) ? 1 : 0;
        return effects;
    }

    /// <summary>Takes in what another has counted: of other items, for the same day.</summary>
    public void Add(Consequences other)
    {
        inReach += other.inReach;
        dueBefore += other.dueBefore;
        dueAfter += other.dueAfter;
        becomeDue += other.becomeDue;
        noLongerDue += other.noLongerDue;
        sooner += other.sooner;
        later += other.later;
        newly += other.newly;
        losing += other.losing;
        unchanged += other.unchanged;
        heldBack += other.heldBack;
        disposableSooner += other.disposableSooner;
        disposableLater += other.disposableLater;
        endsOtherwise += other.endsOtherwise;
        foreach (var (number, (before, after)) in other.months)
        {
            ref var month = ref CollectionsMarshal.GetValueRefOrAddDefault(months, number, out _);
            month = (month.Before + before, month.After + after);
        }

        foreach (var (id, (items, changed, due)) in other.containers)
        {
            ref var container = ref CollectionsMarshal.GetValueRefOrAddDefault(containers, id, out _);
            container = (container.Items + items, container.Changed + changed, container.BecomeDue + due);
        }
    }

    public ConsequenceFigures Figures() =>
        new(
            inReach,
            dueBefore,
            dueAfter,
            becomeDue,
            noLongerDue,
            sooner,
            later,
            newly,
            losing,
            unchanged,
            [
                .. months
                    .OrderBy(m => m.Key)
                    .Select(m => new MonthOfDue(
                        new LocalDate(m.Key / 12, (m.Key % 12) + 1, 1),
                        m.Value.Before,
                        m.Value.After
                    )),
            ],
            [
                .. containers
                    .OrderByDescending(c => c.Value.Items)
                    .ThenBy(c => c.Key)
                    .Select(c => new ContainerEffect(c.Key, c.Value.Items, c.Value.Changed, c.Value.BecomeDue)),
            ],
            heldBack,
            disposableSooner,
            disposableLater,
            endsOtherwise
        );

    private static void Count(ref Tally tally, bool counts, long bytes)
    {
        if (counts)
        {
            tally = tally.Plus(bytes);
        }
    }

    private int MonthNumber(LocalDate date)
    {
        var shown = date < today ? today : date;
        return (shown.Year * 12) + shown.Month - 1;
    }
}
