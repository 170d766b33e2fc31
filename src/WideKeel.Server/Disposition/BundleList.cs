using System.Globalization;
using CsvHelper;
using NodaTime.Text;
using WideKeel.Core.Content;
using WideKeel.Store.Content;

namespace WideKeel.Server.Disposition;

/// <summary>The list of items that goes with a bundle: what the archive needs to know besides the files.</summary>
internal static class BundleList
{
    private static readonly string[] Columns =
    [
        "file",
        "id",
        "title",
        "path",
        "sha256",
        "bytes",
        "created",
        "modified",
        "author",
        "owner",
        "subject",
        "series",
        "kept-through",
    ];

    public static string Write(IEnumerable<(string Name, Item Item)> items, string series)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using var csv = new CsvWriter(text, CsvAnswer.Form);
        Row(Columns);
        foreach (var (name, item) in items)
        {
            Row(
                $"data/{name}",
                item.Id.ToString(CultureInfo.InvariantCulture),
                item.Title,
                item.Path,
                item.Hash,
                item.Bytes.ToString(CultureInfo.InvariantCulture),
                LocalDatePattern.Iso.Format(item.Created),
                LocalDatePattern.Iso.Format(item.Modified),
                item.Author,
                item.Owner,
                item.Subject,
                series,
                KeepUntil.FromCode(item.KeepUntil).Text
            );
        }

        csv.Flush();
        return text.ToString();

        void Row(params string?[] cells)
        {
            foreach (var cell in cells)
            {
                csv.WriteField(cell);
            }

            csv.NextRecord();
        }
    }
}
