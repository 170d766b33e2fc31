using System.Globalization;
using CsvHelper;
using WideKeel.Server.Kernel;

namespace WideKeel.Server.Tests.Kernel;

public class CsvTests
{
    private static string Written(string cell)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using (var csv = new CsvWriter(text, CsvAnswer.Form))
        {
            csv.WriteField(cell);
            csv.WriteField("after");
            csv.NextRecord();
        }

        return text.ToString();
    }

    [Theory]
    [InlineData("two\nlines")]
    [InlineData("two\rlines")]
    [InlineData("two\r\nlines")]
    [InlineData("a \"word\", and a comma")]
    public void A_value_comes_back_as_it_was_whatever_ends_a_line_in_it(string cell)
    {
        using var csv = new CsvReader(new StringReader(Written(cell)), CultureInfo.InvariantCulture);
        csv.Read();
        csv.GetField(0).ShouldBe(cell);
    }

    [Fact]
    public void What_a_spreadsheet_would_compute_is_escaped() => Written("=1+1").ShouldStartWith("\"'=1+1\"");
}
