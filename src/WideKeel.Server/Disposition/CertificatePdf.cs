using System.Globalization;
using System.Text.Json.Nodes;
using UglyToad.PdfPig.Writer;

namespace WideKeel.Server.Disposition;

/// <summary>Draws a certificate as PDF: A4, as many pages as its items need, each numbered.</summary>
public static class CertificatePdf
{
    public static byte[] Draw(JsonObject certificate)
    {
        using var builder = new PdfDocumentBuilder
        {
            DocumentInformation =
            {
                Title = $"Certificate of destruction {certificate["number"]}",
                Producer = "Wide Keel",
            },
        };
        var sheet = new PdfSheet(builder, $"Certificate of destruction {certificate["number"]}");
        sheet.Line((string)certificate["organisation"]!, 11, bold: false);
        sheet.Gap(6);
        sheet.Line($"Certificate of destruction {certificate["number"]}", 20, bold: true);
        sheet.Gap(10);
        WriteHead(sheet, certificate);
        WriteApprovals(sheet, certificate["approvals"]!.AsArray());
        sheet.Heading("Proof");
        var ledger = certificate["ledger"]!;
        sheet.Pair("Ledger", $"{ledger["size"]} entries, signed {ledger["at"]}");
        sheet.Pair("Root", (string)ledger["root"]!);
        sheet.Pair(
            "",
            "The certificate as JSON carries an inclusion proof (RFC 6962) for each item; docs/formats.md "
                + "says how to check it without the product."
        );
        if (certificate["bundle"] is { } bundle)
        {
            sheet.Heading("Bundle");
            sheet.Pair("Items", (string)bundle["items"]!.ToString());
            sheet.Pair("Tag manifest", $"SHA-256 {bundle["tagManifestSha256"]}");
        }

        sheet.Heading(certificate["bundle"] is null ? "Destroyed" : "Destroyed or handed over");
        foreach (var item in certificate["items"]!.AsArray())
        {
            WriteItem(sheet, item!);
        }

        var left = certificate["notDestroyed"]!.AsArray();
        if (left.Count > 0)
        {
            sheet.Heading("In the batch, not destroyed");
            foreach (var item in left)
            {
                sheet.Keep(24);
                sheet.Line((string)item!["path"]!, 9, bold: true);
                sheet.Line((string?)item["why"] ?? (string)item["outcome"]!, 8, bold: false);
            }
        }

        sheet.NumberPages();
        return builder.Build();
    }

    private static void WriteApprovals(PdfSheet sheet, JsonArray approvals)
    {
        sheet.Heading("Approvals");
        if (approvals.Count == 0)
        {
            sheet.Pair("Approval", "None is asked for: the rule destroys without sign-off.");
        }

        foreach (var approval in approvals)
        {
            sheet.Pair(
                $"Stage {approval!["stage"]}",
                $"{approval["by"]}, {approval["at"]}; {approval["opened"]} of {approval["of"]} items had been opened"
            );
            sheet.Pair("", $"“{approval["comment"]}”");
        }
    }

    private static void WriteItem(PdfSheet sheet, JsonNode item)
    {
        sheet.Keep(36);
        sheet.Line((string)item["path"]!, 9, bold: true);
        sheet.Line(
            $"{item["source"]}, created {item["created"]}, kept through {item["keptThrough"]}, "
                + $"{((bool?)item["handedOver"] == true ? "handed over" : "destroyed")} {item["destroyed"]}, "
                + $"ledger entry {item["entry"]}",
            8,
            bold: false
        );
        sheet.Line($"SHA-256 {item["sha256"]}", 8, bold: false);
        sheet.Gap(4);
    }

    private static void WriteHead(PdfSheet sheet, JsonObject certificate)
    {
        var series = certificate["series"]!;
        var items = certificate["items"]!.AsArray();
        if ((string?)certificate["supplementTo"] is { } first)
        {
            sheet.Pair("Supplement", $"to {first}: what could not be destroyed then");
        }

        sheet.Pair("Issued", (string)certificate["issued"]!);
        sheet.Pair("Series", $"{series["code"]}, {series["title"]}, version {series["version"]}");
        sheet.Pair("Authority", (string)series["authority"]! is { Length: > 0 } authority ? authority : "none given");
        sheet.Pair(
            "Items",
            string.Create(
                CultureInfo.InvariantCulture,
                $"{items.Count:N0}, {items.Sum(i => (long)i!["bytes"]!):N0} bytes"
            )
        );
        sheet.Pair("Method", (string)certificate["method"]!);
    }
}
