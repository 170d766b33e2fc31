using System.Globalization;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Disposition;
using WideKeel.Core.Ledger;
using WideKeel.Store.Disposition;

namespace WideKeel.Server.Disposition;

/// <summary>The certificate of destruction as JSON; format in docs/formats.md.</summary>
public static class CertificateDocument
{
    public static string Build(
        string number,
        string organisation,
        Batch batch,
        List<BatchLine> lines,
        List<BatchLine> destroyed,
        Bundle? bundle,
        Func<long, long> sequenceOf,
        MerkleProver prover,
        TreeHead head,
        string publicKey,
        Instant issued)
    {
        var ruler = batch.Ruler;
        return new JsonObject
        {
            ["format"] = "widekeel-certificate-of-destruction/1",
            ["number"] = number,
            ["organisation"] = organisation,
            ["issued"] = InstantPattern.ExtendedIso.Format(issued),
            ["method"] = "The file was deleted from its share and from safekeeping, and looked for afterwards. Media were not sanitised.",
            ["batch"] = batch.Id,
            ["bundle"] = bundle is null ? null : new JsonObject { ["items"] = bundle.Items, ["tagManifestSha256"] = bundle.Hash },
            ["series"] = new JsonObject
            {
                ["code"] = ruler.Code,
                ["title"] = ruler.Title,
                ["version"] = ruler.Version,
                ["authority"] = string.Join("; ", ruler.Authorities),
            },
            ["approvals"] = new JsonArray([.. batch.SignOffs.OrderBy(s => s.Stage).Select(s => (JsonNode)new JsonObject
            {
                ["stage"] = s.Stage + 1,
                ["by"] = s.PersonName,
                ["at"] = InstantPattern.ExtendedIso.Format(s.At),
                ["comment"] = s.Comment,
                ["opened"] = s.LinesOpened,
                ["of"] = s.Lines,
            })]),
            ["items"] = new JsonArray([.. destroyed.Select(l => (JsonNode)new JsonObject
            {
                ["id"] = l.ItemId,
                ["path"] = l.Item!.Path,
                ["title"] = l.Item.Title,
                ["sha256"] = l.Item.Hash,
                ["bytes"] = l.Item.Bytes,
                ["created"] = LocalDatePattern.Iso.Format(l.Item.Created),
                ["keptThrough"] = l.Item.KeepUntil is { } code && Core.Content.KeepUntil.FromCode(code).Date is { } date ? LocalDatePattern.Iso.Format(date) : null,
                ["destroyed"] = InstantPattern.ExtendedIso.Format(l.Item.DestroyedAt!.Value),
                ["handedOver"] = l.State == LineState.Transferred,
                ["entry"] = sequenceOf(l.ItemId),
                ["inclusion"] = Hashes(prover.InclusionProof((int)sequenceOf(l.ItemId) - 1)),
            })]),
            ["notDestroyed"] = new JsonArray([.. lines.Where(l => l.State is not (LineState.Destroyed or LineState.Transferred)).Select(l => (JsonNode)new JsonObject
            {
                ["id"] = l.ItemId,
                ["path"] = l.Item!.Path,
                ["outcome"] = l.State.ToString(),
                ["why"] = l.Outcome,
            })]),
            ["ledger"] = new JsonObject
            {
                ["size"] = head.Size,
                ["root"] = Convert.ToHexStringLower(head.Root),
                ["at"] = InstantPattern.ExtendedIso.Format(head.At),
                ["signature"] = Convert.ToBase64String(head.Signature),
                ["publicKey"] = publicKey,
            },
        }.ToJsonString();
    }

    public static JsonArray Hashes(IEnumerable<byte[]> hashes) => new([.. hashes.Select(h => (JsonNode)Convert.ToHexStringLower(h))]);
}
