using System.Text.Json.Nodes;
using UglyToad.PdfPig.Writer;

namespace WideKeel.Server.Access;

/// <summary>Draws the report of a round as PDF.</summary>
internal static class ReviewPdf
{
    /// <param name="report">As it was frozen.</param>
    /// <param name="hash">SHA-256 of it.</param>
    /// <param name="addenda">What was added to it since.</param>
    public static byte[] Draw(JsonObject report, string hash, IReadOnlyList<Addendum> addenda)
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
            Draw(sheet, line!);
        }

        foreach (var addendum in addenda)
        {
            Draw(sheet, addendum);
        }

        sheet.NumberPages();
        return builder.Build();
    }

    private static void Draw(PdfSheet sheet, JsonNode line)
    {
        sheet.Keep(40);
        sheet.Line($"{line["person"]} on {line["what"]}: {line["decision"]}", 9.5, bold: true);
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
        if (line["path"] is JsonArray { Count: > 0 } path)
        {
            sheet.Line($"Way: {string.Join(" → ", path)}", 8.5, bold: false);
        }

        if ((string?)line["failure"] is { } failure)
        {
            sheet.Line(failure, 8.5, bold: false);
        }

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

    private static void Draw(PdfSheet sheet, Addendum addendum)
    {
        sheet.Heading($"Added on {NodaTime.Text.InstantPattern.ExtendedIso.Format(addendum.At)}");
        sheet.Pair("After", addendum.After);
        sheet.Pair("SHA-256", addendum.Hash);
        foreach (var line in addendum.Lines)
        {
            sheet.Line(
                $"{line.Person} on {line.What}: {(line.Applied ? "carried out" : $"not carried out. {line.Failure}")}",
                8.5,
                bold: false
            );
        }
    }
}
