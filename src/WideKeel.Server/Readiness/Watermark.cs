using UglyToad.PdfPig;
using UglyToad.PdfPig.Core;
using UglyToad.PdfPig.Writer;

namespace WideKeel.Server.Readiness;

/// <summary>Copies of a PDF that say on every page to whom they were given.</summary>
internal static class Watermark
{
    private const double Size = 8;

    /// <summary>Whether every page of a file can be marked: it is tried.</summary>
    public static bool Takes(string file)
    {
        try
        {
            return Mark(file, "x").Length > 0;
        }
        catch (Exception e) when (e is not (IOException or OutOfMemoryException))
        {
            return false;
        }
    }

    /// <summary>The document with a line at the foot of every page.</summary>
    public static byte[] Mark(string file, string words)
    {
        using var document = PdfDocument.Open(file);
        if (document.NumberOfPages == 0)
        {
            throw new InvalidOperationException("The document has no pages.");
        }

        using var builder = new PdfDocumentBuilder { DocumentInformation = { Producer = "Wide Keel" } };
        var font = builder.AddTrueTypeFont(
            File.ReadAllBytes(Path.Combine(AppContext.BaseDirectory, "Fonts", "SourceSans3-Regular.ttf"))
        );
        for (var number = 1; number <= document.NumberOfPages; number++)
        {
            var page = builder.AddPage(document, number);
            page.SetTextAndFillColor(110, 110, 110);
            page.AddText(PdfSheet.Printable(words), Size, new PdfPoint(28, 18), font);
        }

        return builder.Build();
    }
}
