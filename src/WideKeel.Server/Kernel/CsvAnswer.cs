using System.Globalization;
using System.Text;
using CsvHelper;
using CsvHelper.Configuration;

namespace WideKeel.Server.Kernel;

/// <summary>
/// A table as CSV (RFC 4180, UTF-8), streamed; what a spreadsheet would read as a formula is escaped.
/// </summary>
public static class CsvAnswer
{
    /// <summary>
    /// How every table is written. A bare line feed within a value is quoted too: the writer looks for the end of its own
    /// lines only.
    /// </summary>
    public static CsvConfiguration Form { get; } =
        new(CultureInfo.InvariantCulture)
        {
            InjectionOptions = InjectionOptions.Escape,
            NewLine = "\r\n",
            ShouldQuote = args =>
                ConfigurationFunctions.ShouldQuote(args) || args.Field.AsSpan().ContainsAny('\r', '\n'),
        };

    public static async Task<IResult> WriteAsync(
        HttpContext http,
        string name,
        string[] columns,
        IAsyncEnumerable<object?[]> rows,
        CancellationToken cancel
    )
    {
        http.Response.ContentType = "text/csv; charset=utf-8";
        http.Response.Headers.ContentDisposition = $"attachment; filename=\"{name}\"";
        await using var text = new StreamWriter(http.Response.Body, new UTF8Encoding(false));
        await using var csv = new CsvWriter(text, Form);
        foreach (var column in columns)
        {
            csv.WriteField(column);
        }

        await csv.NextRecordAsync();
        // The rows may take their time; whoever waits sees that something comes.
        await csv.FlushAsync();
        await text.FlushAsync(cancel);
        await foreach (var row in rows.WithCancellation(cancel))
        {
            // Nobody waits for the rest of a download that was broken off.
            cancel.ThrowIfCancellationRequested();
            foreach (var value in row)
            {
                csv.WriteField(
                    value switch
                    {
                        null => "",
                        NodaTime.LocalDate date => NodaTime.Text.LocalDatePattern.Iso.Format(date),
                        IFormattable formattable => formattable.ToString(null, CultureInfo.InvariantCulture),
                        _ => value.ToString(),
                    }
                );
            }

            await csv.NextRecordAsync();
        }

        return Results.Empty;
    }
}
