using MiniExcelLibs;

namespace WideKeel.Server.Kernel;

/// <summary>
/// A table as a spreadsheet (Office Open XML), written row by row to a file that is gone once it is sent.
/// </summary>
public static class XlsxAnswer
{
    public static async Task<IResult> WriteAsync(
        string name,
        string[] columns,
        IAsyncEnumerable<object?[]> rows,
        CancellationToken cancel
    )
    {
        var file = new FileStream(
            Path.GetTempFileName(),
            FileMode.Open,
            FileAccess.ReadWrite,
            FileShare.None,
            65_536,
            FileOptions.DeleteOnClose | FileOptions.Asynchronous
        );
        try
        {
            await file.SaveAsAsync(
                rows.ToBlockingEnumerable(cancel)
                    .Select(r => columns.Zip(r).ToDictionary(c => c.First, c => Cell(c.Second))),
                sheetName: "Items",
                cancellationToken: cancel
            );
            file.Position = 0;
            return Results.File(file, "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", name);
        }
        catch
        {
            await file.DisposeAsync();
            throw;
        }
    }

    private static object? Cell(object? value) =>
        value switch
        {
            NodaTime.LocalDate date => date.ToDateTimeUnspecified(),
            _ => value,
        };
}
