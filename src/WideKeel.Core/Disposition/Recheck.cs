using WideKeel.Core.Content;
using WideKeel.Core.Retention;

namespace WideKeel.Core.Disposition;

/// <summary>What a line of a batch was signed for.</summary>
/// <param name="SeriesId">Null where a blanket destroys what is under no series.</param>
/// <param name="ContentHash">SHA-256 of the content when the batch was opened, lower-case hex.</param>
public readonly record struct SignedLine(long ItemId, long? SeriesId, string ContentHash);

/// <summary>What is true of the item now, just before it would be destroyed.</summary>
/// <param name="ContentHash">SHA-256 of the content on its source now; null when the source no longer has it.</param>
/// <param name="KnownAsMissing">The item had already left the source when the batch was signed, so that its absence is
/// no surprise.</param>
/// <param name="Held">A hold is in force over it.</param>
public readonly record struct ItemNow(
    long? SeriesId,
    Standing Standing,
    string? ContentHash,
    bool KnownAsMissing,
    bool Held = false
);

/// <summary>Decides, item by item and at the last moment, whether what was signed still holds.</summary>
public static class Recheck
{
    /// <summary>Null when the item may be destroyed; otherwise why it drops out.</summary>
    public static string? DropReason(in SignedLine line, in ItemNow now) =>
        now switch
        {
            { Held: true } => "It is kept for another reason since the batch was opened; a hold suspends its disposal.",
            { SeriesId: var series } when series != line.SeriesId =>
                "It was filed under another series after the batch was opened.",
            { Standing.State: not ItemState.Due } =>
                "It is no longer due: its rule, its dates or an extension changed after the batch was opened.",
            { ContentHash: { } hash } when hash != line.ContentHash =>
                "Its content changed after the batch was opened, so nobody has signed for what it holds now.",
            { ContentHash: null, KnownAsMissing: false } =>
                "It was no longer at its place on the source; it will be looked for at the next scan.",
            _ => null,
        };
}
