using System.Buffers;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Content;
using WideKeel.Core.Ledger;
using WideKeel.Store;
using WideKeel.Store.Disposition;

namespace WideKeel.Server.Disposition;

/// <summary>A line of a batch as its certificate names it.</summary>
internal sealed record CertifiedLine(
    long ItemId,
    LineState State,
    string? Outcome,
    string Path,
    string Title,
    string Hash,
    long Bytes,
    LocalDate Created,
    int? KeepUntil,
    Instant? DestroyedAt,
    string Source,
    long? CertificateId
)
{
    /// <summary>Its file is gone: destroyed, or handed over.</summary>
    public bool IsGone => State is LineState.Destroyed or LineState.Transferred;

    public static IQueryable<CertifiedLine> Of(WideKeelDb db, IQueryable<BatchLine> lines) =>
        lines
            .OrderBy(l => l.ItemId)
            .Select(l => new CertifiedLine(
                l.ItemId,
                l.State,
                l.Outcome,
                l.Item!.Path,
                l.Item.Title,
                l.Item.Hash,
                l.Item.Bytes,
                l.Item.Created,
                l.Item.KeepUntil,
                l.Item.DestroyedAt,
                db.Containers.Where(c => c.Id == l.Item.ContainerId)
                    .Join(db.Sources, c => c.SourceId, s => s.Id, (_, s) => s.Name)
                    .Single(),
                l.Item.CertificateId
            ));
}

/// <summary>The certificate of destruction as JSON; format in docs/formats.md.</summary>
internal sealed record CertificateDocument(
    string Number,
    string? SupplementTo,
    string Organisation,
    Batch Batch,
    IReadOnlyList<CertifiedLine> Lines,
    Bundle? Bundle,
    Instant Issued
)
{
    /// <summary>The document in UTF-8, with the proof of inclusion of each item that is gone.</summary>
    /// <param name="entries">The ledger's entries on what is gone: item id → sequence.</param>
    public byte[] Write(IReadOnlyDictionary<long, long> entries, MerkleProver prover, TreeHead head, string publicKey)
    {
        var bytes = new ArrayBufferWriter<byte>();
        using (var json = new Utf8JsonWriter(bytes))
        {
            json.WriteStartObject();
            json.WriteString("format", "widekeel-certificate-of-destruction/1");
            json.WriteString("number", Number);
            json.WriteString("supplementTo", SupplementTo);
            json.WriteString("organisation", Organisation);
            json.WriteString("issued", InstantPattern.ExtendedIso.Format(Issued));
            json.WriteString(
                "method",
                "The file was deleted from its share and from safekeeping, and looked for afterwards. Media were not sanitised."
            );
            json.WriteNumber("batch", Batch.Id);
            WriteBundle(json);
            WriteSeries(json);
            WriteApprovals(json);
            json.WriteStartArray("items");
            foreach (var line in Lines.Where(l => l.IsGone))
            {
                WriteItem(json, line, entries[line.ItemId], prover);
            }

            json.WriteEndArray();
            WriteNotDestroyed(json);
            json.WriteStartObject("ledger");
            json.WriteNumber("size", head.Size);
            json.WriteString("root", Convert.ToHexStringLower(head.Root));
            json.WriteString("at", InstantPattern.ExtendedIso.Format(head.At));
            json.WriteBase64String("signature", head.Signature);
            json.WriteString("publicKey", publicKey);
            json.WriteEndObject();
            json.WriteEndObject();
        }

        return bytes.WrittenSpan.ToArray();
    }

    private void WriteBundle(Utf8JsonWriter json)
    {
        if (Bundle is null)
        {
            json.WriteNull("bundle");
            return;
        }

        json.WriteStartObject("bundle");
        json.WriteNumber("items", Bundle.Items);
        json.WriteString("tagManifestSha256", Bundle.Hash);
        json.WriteEndObject();
    }

    private void WriteSeries(Utf8JsonWriter json)
    {
        var ruler = Batch.Ruler;
        json.WriteStartObject("series");
        json.WriteString("code", ruler.Code);
        json.WriteString("title", ruler.Title);
        json.WriteNumber("version", ruler.Version);
        json.WriteString("authority", string.Join("; ", ruler.Authorities));
        json.WriteEndObject();
    }

    private void WriteApprovals(Utf8JsonWriter json)
    {
        json.WriteStartArray("approvals");
        foreach (var signed in Batch.SignOffs.OrderBy(s => s.Stage))
        {
            json.WriteStartObject();
            json.WriteNumber("stage", signed.Stage + 1);
            json.WriteString("by", signed.PersonName);
            json.WriteString("at", InstantPattern.ExtendedIso.Format(signed.At));
            json.WriteString("comment", signed.Comment);
            json.WriteNumber("opened", signed.LinesOpened);
            json.WriteNumber("of", signed.Lines);
            json.WriteEndObject();
        }

        json.WriteEndArray();
    }

    private static void WriteItem(Utf8JsonWriter json, CertifiedLine line, long entry, MerkleProver prover)
    {
        json.WriteStartObject();
        json.WriteNumber("id", line.ItemId);
        json.WriteString("source", line.Source);
        json.WriteString("path", line.Path);
        json.WriteString("title", line.Title);
        json.WriteString("sha256", line.Hash);
        json.WriteNumber("bytes", line.Bytes);
        json.WriteString("created", LocalDatePattern.Iso.Format(line.Created));
        json.WriteString(
            "keptThrough",
            line.KeepUntil is { } code && KeepUntil.FromCode(code).Date is { } date
                ? LocalDatePattern.Iso.Format(date)
                : null
        );
        json.WriteString("destroyed", InstantPattern.ExtendedIso.Format(line.DestroyedAt!.Value));
        json.WriteBoolean("handedOver", line.State == LineState.Transferred);
        json.WriteNumber("entry", entry);
        json.WriteStartArray("inclusion");
        Span<char> hex = stackalloc char[2 * MerkleTree.HashSize];
        foreach (var hash in prover.InclusionProof((int)entry - 1))
        {
            Convert.TryToHexStringLower(hash, hex, out _);
            json.WriteStringValue(hex);
        }

        json.WriteEndArray();
        json.WriteEndObject();
    }

    private void WriteNotDestroyed(Utf8JsonWriter json)
    {
        json.WriteStartArray("notDestroyed");
        foreach (var line in Lines.Where(l => !l.IsGone))
        {
            json.WriteStartObject();
            json.WriteNumber("id", line.ItemId);
            json.WriteString("source", line.Source);
            json.WriteString("path", line.Path);
            json.WriteString("outcome", line.State.ToString());
            json.WriteString("why", line.Outcome);
            json.WriteEndObject();
        }

        json.WriteEndArray();
    }
}
