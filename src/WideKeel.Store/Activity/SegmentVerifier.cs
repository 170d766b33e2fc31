using System.Globalization;
using System.Text.Json.Nodes;
using DuckDB.NET.Data;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.AtRest;
using WideKeel.Core.Ledger;

namespace WideKeel.Store.Activity;

/// <summary>What the check of an archive found.</summary>
/// <param name="Findings">One sentence each; empty where all is well.</param>
public sealed record SegmentReport(int Files, long Events, IReadOnlyList<string> Findings);

/// <summary>Holds sealed files against the roots that an export of the ledger carries; needs no database.</summary>
public static class SegmentVerifier
{
    public static Outcome<SegmentReport> Verify(ISegmentFiles archive, string export)
    {
        if (LedgerExport.Verify(export).Refusal is { } refusal)
        {
            return refusal;
        }

        return Verify(
            archive,
            JsonNode.Parse(export)!["entries"]!.AsArray().Select(e => (string?)e!["body"]).OfType<string>()
        );
    }

    /// <summary>The same against entries of the ledger that were verified before.</summary>
    public static SegmentReport Verify(ISegmentFiles archive, IEnumerable<string> bodies)
    {
        var (segments, removed) = SegmentsOf(bodies);
        List<string> findings = [];
        HashSet<string> expected = [];
        long events = 0;
        foreach (var segment in segments)
        {
            expected.Add(SegmentFile.PathOf("", segment.Channel, segment.Day, segment.Number));
            if (removed.Contains(segment.Name))
            {
                findings.AddRange(
                    archive.Has(segment.Channel, segment.Day, segment.Number)
                        ? [$"{segment.Name}: it was removed, and its file is still there."]
                        : []
                );
            }
            else if (archive.Has(segment.Channel, segment.Day, segment.Number))
            {
                events += segment.Events;
                findings.AddRange(FindingOf(archive, segment) is { } finding ? [$"{segment.Name}: {finding}"] : []);
            }
            else
            {
                findings.Add($"{segment.Name}: the file is missing, with its {Number(segment.Events)} events.");
            }
        }

        findings.AddRange(
            archive
                .All()
                .Select(f => f.Path)
                .Where(f => !expected.Contains(f))
                .Order(StringComparer.Ordinal)
                .Select(f => $"{f}: the ledger knows of no such file.")
        );
        return new SegmentReport(segments.Count, events, findings);
    }

    /// <summary>What is wrong with one file, by the number of its first bad event; null where nothing is.</summary>
    private static string? FindingOf(ISegmentFiles archive, SealedSegment segment)
    {
        try
        {
            using var open = archive.Open(segment.Channel, segment.Day, segment.Number);
            return open is null ? "the file went while it was read." : FindingOf(open.Path, segment);
        }
        catch (UnreadableAtRestException e)
        {
            return $"the file cannot be decrypted: {e.Message}";
        }
    }

    /// <inheritdoc cref="FindingOf(ISegmentFiles, SealedSegment)"/>
    public static string? FindingOf(string file, SealedSegment segment)
    {
        var tree = new CompactRange();
        long next = 1;
        try
        {
            foreach (var (number, leaf, e) in SegmentFile.Read(file))
            {
                if (number != next)
                {
                    return number > next
                        ? $"event {Number(next)} is missing."
                        : $"event {Number(number)} stands there twice.";
                }

                var computed = EventLine.LeafOf(e);
                if (leaf is null || !computed.AsSpan().SequenceEqual(leaf))
                {
                    return $"event {Number(number)} was altered.";
                }

                tree.Append(computed);
                next++;
            }
        }
        catch (Exception e) when (e is DuckDBException or IOException or InvalidOperationException or FormatException)
        {
            return $"event {Number(next)} cannot be read, nor those after it: the file is damaged.";
        }

        return tree.Size < segment.Events ? $"event {Number(next)} is missing, and all after it."
            : tree.Size > segment.Events ? $"event {Number(segment.Events + 1)} was added."
            : Convert.ToHexStringLower(tree.Root()) != segment.Root
                ? "its events do not lead to the root in the ledger: some were altered together with their leaves."
            : SegmentFile.HashOf(file) != segment.FileHash
                ? "its events are those that were sealed, but the file was written anew."
            : null;
    }

    private static (List<SealedSegment> Sealed, HashSet<string> Removed) SegmentsOf(IEnumerable<string> bodies)
    {
        List<SealedSegment> segments = [];
        HashSet<string> removed = [];
        foreach (var body in bodies.Where(b => b.Contains("\"segment-", StringComparison.Ordinal)))
        {
            var entry = JsonNode.Parse(body)!;
            switch ((string?)entry["verb"])
            {
                case SealedSegment.Verb when SealedSegment.Read(entry["after"]) is { } segment:
                    segments.Add(segment);
                    break;
                case SealedSegment.RemovedVerb when SealedSegment.Read(entry["before"]) is { } gone:
                    removed.Add(gone.Name);
                    break;
            }
        }

        return (segments, removed);
    }

    private static string Number(long number) => number.ToString("N0", CultureInfo.InvariantCulture);
}
