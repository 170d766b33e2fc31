using UglyToad.PdfPig.Content;
using UglyToad.PdfPig.Core;
using UglyToad.PdfPig.Writer;

namespace WideKeel.Server.Kernel;

/// <summary>Writes lines down sheets of A4, as many as they need, and numbers them.</summary>
internal sealed class PdfSheet(PdfDocumentBuilder builder, string title)
{
    private const double Left = 56;
    private const double Right = 539;
    private const double Top = 786;
    private const double Bottom = 64;

    private readonly PdfDocumentBuilder.AddedFont regular = Font(builder, "SourceSans3-Regular.ttf");
    private readonly PdfDocumentBuilder.AddedFont semibold = Font(builder, "SourceSans3-Semibold.ttf");
    private readonly List<PdfPageBuilder> pages = [];
    private readonly Dictionary<(char Character, bool Bold), double> widths = [];
    private double y;

    public void Heading(string text)
    {
        Gap(12);
        Keep(40);
        Line(text, 12, bold: true);
        Gap(2);
    }

    public void Pair(string name, string value)
    {
        var lines = Wrap(value, 9.5, semibold: false, Right - Left - 80);
        foreach (var (line, index) in lines.Select((l, i) => (l, i)))
        {
            Advance(14);
            if (index == 0 && name.Length > 0)
            {
                pages[^1].AddText(name, 9.5, new PdfPoint(Left, y), semibold);
            }

            pages[^1].AddText(line, 9.5, new PdfPoint(Left + 80, y), regular);
        }
    }

    public void Line(string text, double size, bool bold)
    {
        foreach (var line in Wrap(text, size, bold, Right - Left))
        {
            Advance(size * 1.35);
            pages[^1].AddText(line, size, new PdfPoint(Left, y), bold ? semibold : regular);
        }
    }

    public void Gap(double points) => y -= points;

    /// <summary>Begins a new page unless this much room is left.</summary>
    public void Keep(double points)
    {
        if (pages.Count == 0 || y - points < Bottom)
        {
            NewPage();
        }
    }

    public void NumberPages()
    {
        for (var i = 0; i < pages.Count; i++)
        {
            pages[i].AddText($"{title} · page {i + 1} of {pages.Count}", 8, new PdfPoint(Left, 36), regular);
        }
    }

    private static PdfDocumentBuilder.AddedFont Font(PdfDocumentBuilder builder, string file) =>
        builder.AddTrueTypeFont(File.ReadAllBytes(Path.Combine(AppContext.BaseDirectory, "Fonts", file)));

    private void Advance(double height)
    {
        Keep(height);
        y -= height;
    }

    private void NewPage()
    {
        pages.Add(builder.AddPage(PageSize.A4));
        y = Top;
    }

    private List<string> Wrap(string text, double size, bool semibold, double width)
    {
        if (pages.Count == 0)
        {
            NewPage();
        }

        List<string> lines = [];
        var line = "";
        var taken = 0.0;
        // A path may be longer than a line without a blank; it is cut where it must be.
        foreach (var c in Printable(text))
        {
            if (taken + Width(c, size, semibold) > width)
            {
                var blank = line.LastIndexOf(' ');
                var cut = blank > line.Length / 2 ? blank + 1 : line.Length;
                lines.Add(line[..cut].TrimEnd());
                line = line[cut..];
                taken = line.Sum(l => Width(l, size, semibold));
            }

            line += c;
            taken += Width(c, size, semibold);
        }

        lines.Add(line);
        return lines;
    }

    /// <summary>
    /// How far a character moves the pen, in points. Each is measured once: a certificate of thousands of lines has
    /// some eighty different ones.
    /// </summary>
    private double Width(char c, double size, bool bold)
    {
        if (!widths.TryGetValue((c, bold), out var width))
        {
            const double Measured = 100;
            var letter = pages[^1].MeasureText($"{c}", Measured, new PdfPoint(0, 0), bold ? semibold : regular)[0];
            widths[(c, bold)] = width = letter.EndBaseLine.X / Measured;
        }

        return width * size;
    }

    /// <summary>
    /// The fonts have no emoji, and a path can hold a line break; what cannot be drawn is written as its code.
    /// </summary>
    public static string Printable(string text) =>
        string.Concat(
            text.EnumerateRunes()
                .Select(r =>
                    r.Value is >= 0x20 and < 0x250 and not (>= 0x7f and < 0xa0)
                    || r.Value is 0x2013 or 0x2014 or 0x2018 or 0x2019 or 0x201c or 0x201d or 0x2026
                        ? r.ToString()
                        : $"\\u{{{r.Value:x}}}"
                )
        );
}
