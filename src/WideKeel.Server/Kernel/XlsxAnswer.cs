using System.IO.Pipelines;
using MiniExcelLibs;

namespace WideKeel.Server.Kernel;

/// <summary>A table as a spreadsheet (Office Open XML), sent while its rows are read.</summary>
public static class XlsxAnswer
{
    /// <summary>Rows that spreadsheet programs read (1,048,576; common practice), without the one of the headers.</summary>
    public const int MostRows = 1_048_575;

    private const int Ahead = 1 << 20;

    public static async Task<IResult> WriteAsync(
        HttpContext http,
        string name,
        string[] columns,
        IAsyncEnumerable<object?[]> rows,
        CancellationToken cancel
    )
    {
        http.Response.ContentType = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";
        http.Response.Headers.ContentDisposition = $"attachment; filename=\"{name}\"";
        // The writer of spreadsheets wants a stream that takes bytes at once; the answer takes them later.
        var pipe = new Pipe(new PipeOptions(pauseWriterThreshold: Ahead, resumeWriterThreshold: Ahead / 2));
        var writing = Task.Run(() => WriteAsync(pipe.Writer, columns, rows, cancel), CancellationToken.None);
        try
        {
            await pipe.Reader.CopyToAsync(http.Response.BodyWriter, cancel);
        }
        finally
        {
            await pipe.Reader.CompleteAsync();
            // The rows come over the request's own connection, which must stay until they are through.
            await writing.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }

        return Results.Empty;
    }

    private static async Task WriteAsync(
        PipeWriter to,
        string[] columns,
        IAsyncEnumerable<object?[]> rows,
        CancellationToken cancel
    )
    {
        try
        {
            await using (var sheet = to.AsStream(leaveOpen: true))
            {
                await sheet.SaveAsAsync(
                    rows.ToBlockingEnumerable(cancel).Select(Row),
                    sheetName: "Items",
                    cancellationToken: cancel
                );
            }

            await to.CompleteAsync();
        }
        catch (Exception e)
        {
            // Whoever reads learns of it there, and the answer breaks off.
            await to.CompleteAsync(e);
        }

        Dictionary<string, object?> Row(object?[] row)
        {
            // Nobody waits for the rest of a download that was broken off.
            cancel.ThrowIfCancellationRequested();
            return columns.Zip(row).ToDictionary(c => c.First, c => Cell(c.Second));
        }
    }

    private static object? Cell(object? value) =>
        value switch
        {
            NodaTime.LocalDate date => date.ToDateTimeUnspecified(),
            _ => value,
        };
}
