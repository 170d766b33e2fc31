using System.Runtime.InteropServices;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;

namespace WideKeel.Core.Matters;

/// <summary>What becomes of one item when a hold on it ends.</summary>
public enum Released
{
    /// <summary>Another order keeps it.</summary>
    StaysHeld,

    /// <summary>Its rules keep it still.</summary>
    StaysKept,

    /// <summary>It is past its term and may be disposed of as soon as the delay has passed.</summary>
    BecomesDue,

    /// <summary>Nothing keeps it; people may delete it.</summary>
    Free,
}

/// <param name="Month">First day of the month in which it falls due.</param>
public readonly record struct MonthOfRelease(LocalDate Month, long Items);

public readonly record struct ContainerOfRelease(long ContainerId, long Items, long StayHeld, long BecomeDue);

/// <summary>The exact preview of a release.</summary>
/// <param name="KeptLonger">Of those that stay kept: permanently, or until an event.</param>
/// <param name="ByMonth">Of those that stay kept: when they fall due.</param>
public sealed record ReleaseFigures(
    Tally All,
    Tally StayHeld,
    Tally StayKept,
    Tally KeptLonger,
    Tally BecomeDue,
    Tally Free,
    IReadOnlyList<MonthOfRelease> ByMonth,
    IReadOnlyList<ContainerOfRelease> ByContainer
);

/// <summary>Adds up a release item by item.</summary>
/// <param name="day">The first day on which the hold no longer protects.</param>
public sealed class ReleaseCount(LocalDate day)
{
    private readonly Dictionary<int, long> months = [];
    private readonly Dictionary<long, (long Items, long Held, long Due)> containers = [];
    private Tally all,
        held,
        kept,
        longer,
        due,
        free;

    /// <param name="alsoHeld">By another order that is in force.</param>
    public static Released Of(bool alsoHeld, KeepUntil keep, LocalDate? disposableFrom, LocalDate day) =>
        alsoHeld ? Released.StaysHeld
        : disposableFrom is { } from
            ? from <= day ? Released.BecomesDue
                : Released.StaysKept
        : keep.IsPermanent || keep.IsAwaiting || keep.Date >= day ? Released.StaysKept
        : Released.Free;

    public void Add(long containerId, long bytes, bool alsoHeld, KeepUntil keep, LocalDate? disposableFrom)
    {
        all = all.Plus(bytes);
        ref var container = ref CollectionsMarshal.GetValueRefOrAddDefault(containers, containerId, out _);
        container.Items++;
        switch (Of(alsoHeld, keep, disposableFrom, day))
        {
            case Released.StaysHeld:
                held = held.Plus(bytes);
                container.Held++;
                break;
            case Released.BecomesDue:
                due = due.Plus(bytes);
                container.Due++;
                break;
            case Released.Free:
                free = free.Plus(bytes);
                break;
            default:
                kept = kept.Plus(bytes);
                if ((disposableFrom ?? keep.Date?.PlusDays(1)) is { } ends)
                {
                    CollectionsMarshal.GetValueRefOrAddDefault(months, (ends.Year * 12) + ends.Month - 1, out _)++;
                }
                else
                {
                    longer = longer.Plus(bytes);
                }

                break;
        }
    }

    public ReleaseFigures Figures() =>
        new(
            all,
            held,
            kept,
            longer,
            due,
            free,
            [
                .. months
                    .OrderBy(m => m.Key)
                    .Select(m => new MonthOfRelease(new LocalDate(m.Key / 12, (m.Key % 12) + 1, 1), m.Value)),
            ],
            [
                .. containers
                    .OrderByDescending(c => c.Value.Due)
                    .ThenByDescending(c => c.Value.Items)
                    .ThenBy(c => c.Key)
                    .Select(c => new ContainerOfRelease(c.Key, c.Value.Items, c.Value.Held, c.Value.Due)),
            ]
        );
}
