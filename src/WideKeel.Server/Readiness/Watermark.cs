using UglyToad.PdfPig;
using UglyToad.PdfPig.Core;
using UglyToad.PdfPig.Writer;

namespace WideKeel.Server.Readiness;

/// <summary>Copies of a PDF that say on every page to whom they were given.</summary>
internal static class Watermark
{
    private const double Size = 8;

    /// <summary>Why a file cannot be marked; null where it can.</summary>
    public static string? Problem(string file)
    {
        try
        {
            using var document = PdfDocument.Open(file);
            return document.NumberOfPages == 0 ? "It has no pages." : null;
        }
        catch (Exception e) when (e is not (IOException or OutOfMemoryException))
        {
            return "It is no PDF that can be read; a document for the asking bears the asker’s name on every page.";
        }
    }

    /// <summary>The document with a line at the foot of every page.</summary>
    public static byte[] Mark(string file, string words)
    {
        using var document = PdfDocument.Open(file);
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
