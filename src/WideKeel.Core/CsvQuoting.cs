using System.Globalization;

namespace WideKeel.Core;

/// <summary>Where the quotes of a table (RFC 4180) do not come in pairs, which would swallow the lines after them.</summary>
public static class CsvQuoting
{
    /// <summary>
    /// The first quote that is never closed, or that stands within an unquoted field or after a closed one; null where
    /// all is well. Line and column begin at 1.
    /// </summary>
    public static (int Line, int Column)? Fault(string text, char delimiter = ',')
    {
        var (line, column) = (1, 0);
        var opened = (Line: 0, Column: 0);
        var state = State.Start;
        for (var i = 0; i < text.Length; i++)
        {
            var c = text[i];
            column++;
            if (c == '"')
            {
                if (state == State.Plain)
                {
                    return (line, column);
                }

                // Two in a row within quotes are one: the field closes, and goes on.
                opened = state == State.Start ? (line, column) : opened;
                state = state == State.Quoted ? State.Closed : State.Quoted;
            }
            else if (c is '\r' or '\n')
            {
                state = state == State.Quoted ? state : State.Start;
                if (c == '\n' || i + 1 == text.Length || text[i + 1] != '\n')
                {
                    (line, column) = (line + 1, 0);
                }
            }
            else if (state == State.Closed && c != delimiter)
            {
                return (line, column);
            }
            else if (state != State.Quoted)
            {
                state = c == delimiter ? State.Start : State.Plain;
            }
        }

        return state == State.Quoted ? opened : null;
    }

    /// <summary>The refusal of a table with such a quote, or null.</summary>
    public static Refusal? Check(string text, string field, char delimiter = ',') =>
        Fault(text, delimiter) is var (line, column)
            ? new(
                "csv-quote",
                field,
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"Line {line:N0}, column {column:N0}: this quote has no partner, or stands within a field that does "
                        + $"not begin with one. Nothing was taken in."
                )
            )
            : null;

    private enum State
    {
        Start,
        Plain,
        Quoted,
        Closed,
    }
}
