namespace WideKeel.Core.Tests;

/// <summary>Quotes of a table (RFC 4180, section 2, rules 5 to 7) that would swallow the lines after them.</summary>
public sealed class CsvQuotingTests
{
    [Theory]
    [InlineData("a,b\n1,2\n")]
    [InlineData("\"a\",\"b\"\r\n")]
    [InlineData("\"a \"\"quoted\"\" word\",b")]
    [InlineData("\"over\ntwo lines\",b\n")]
    [InlineData("\"\",\"\"")]
    [InlineData("")]
    public void Quotes_in_pairs_are_well(string text) => CsvQuoting.Fault(text).ShouldBeNull();

    [Theory]
    [InlineData("a,b\n\"1,2\n3,4\n", 2, 1)]
    [InlineData("a,b\r\n1,\"2\r\n", 2, 3)]
    [InlineData("a,b\n1,2\"\n", 2, 4)]
    [InlineData("\"a\"b,c\n", 1, 4)]
    [InlineData("\"one\ntwo\",\"three", 2, 6)]
    public void A_quote_that_is_astray_is_found_where_it_stands(string text, int line, int column) =>
        CsvQuoting.Fault(text).ShouldBe((line, column));

    [Fact]
    public void A_table_of_semicolons_is_judged_by_them() => CsvQuoting.Fault("\"a\";\"b\"", ';').ShouldBeNull();
}
