using System.Text.Json.Nodes;
using UglyToad.PdfPig.Writer;

namespace WideKeel.Server.Access;

/// <summary>Draws the report of a round as PDF.</summary>
internal static class ReviewPdf
{
    /// <param name="report">As it was frozen.</param>
    /// <param name="hash">SHA-256 of it.</param>
    public static byte[] Draw(JsonObject report, string hash)
    {
        var title = $"Review of access: {report["review"]}, round {report["round"]}";
        using var builder = new PdfDocumentBuilder { DocumentInformation = { Title = title, Producer = "Wide Keel" } };
        var sheet = new PdfSheet(builder, title);
        var lines = report["lines"]!.AsArray();
        sheet.Line(title, 18, bold: true);
        sheet.Gap(8);
        sheet.Pair("Started", (string)report["started"]!);
        sheet.Pair("Ended", (string?)report["ended"] ?? "still running");
        sheet.Pair("Lines", Wording.Number(lines.Count));
        sheet.Pair("Kept", Wording.Number(lines.Count(l => (string?)l!["decision"] == "keep")));
        sheet.Pair("Removed", Wording.Number(lines.Count(l => (string?)l!["decision"] == "remove")));
        sheet.Pair("SHA-256", hash);
        if (report["stamped"]!.AsArray() is { Count: > 0 } stamped)
        {
            sheet.Pair(
                "Stamped",
                $"{string.Join(", ", stamped)} kept everything, in less than two seconds a line, and opened nothing."
            );
        }

        sheet.Heading("Decisions");
        foreach (var line in lines)
        {
            sheet.Keep(40);
            sheet.Line($"{line!["person"]} on {line["what"]}: {line["decision"]}", 9.5, bold: true);
            sheet.Line(
                $"{line["roles"]} · asked {line["reviewer"]} · advice {line["advice"]} · by {line["by"]} {line["at"]}"
                    + (
                        (string?)line["decision"] == "remove"
                            ? (bool)line["applied"]!
                                ? " · carried out"
                                : " · not carried out"
                            : ""
                    ),
                8.5,
                bold: false
            );
            foreach (var (said, stage) in line["former"]!.AsArray().Select((f, i) => (f!, i + 1)))
            {
                sheet.Line(
                    $"Stage {stage}: {said["reviewer"]} said {said["decision"]} {said["reason"]}".TrimEnd(),
                    8.5,
                    bold: false
                );
            }

            if ((string?)line["reason"] is { Length: > 0 } reason)
            {
                sheet.Line($"“{reason}”", 8.5, bold: false);
            }

            sheet.Gap(3);
        }

        sheet.NumberPages();
        return builder.Build();
    }
}
