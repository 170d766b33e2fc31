using UglyToad.PdfPig.Writer;

namespace WideKeel.Server.Tests.Content;

/// <summary>Files whose words no search finds are found by that.</summary>
public sealed class SearchableTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api ines = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write("Fleet/whole.md", "2020-01-01", "words");
        Put("secret.pdf", ProtectedFiles.Pdf());
        Put("secret.zip", ProtectedFiles.Zip());
        Put("picture.jpg", [1, 2, 3]);
        using var scan = new PdfDocumentBuilder();
        scan.AddPage(200, 200);
        Put("scan.pdf", scan.Build());
        await product.ScanAsync();
        ines = await product.SignInAsync("ines");
    }

    public ValueTask DisposeAsync()
    {
        ines.Dispose();
        return product.DisposeAsync();
    }

    private void Put(string name, byte[] content) =>
        File.WriteAllBytes(Path.Combine(product.Share, "Fleet", name), content);

    private async Task<List<string>> PathsAsync(string query) =>
        [
            .. (await ines.GetOk($"items?{query}"))
                .GetProperty("items")
                .EnumerateArray()
                .Select(i => i.GetProperty("path").GetString()!["Fleet/".Length..])
                .Order(StringComparer.Ordinal),
        ];

    [Theory]
    [InlineData("searchable=password", "secret.pdf secret.zip")]
    [InlineData("searchable=scan", "scan.pdf")]
    [InlineData("searchable=scan&searchable=none", "picture.jpg scan.pdf")]
    [InlineData("searchable=whole", "whole.md")]
    [InlineData("cql=searchable%20%3D%20password", "secret.pdf secret.zip")]
    [InlineData("cql=searchable%20any%20%22scan%20none%22", "picture.jpg scan.pdf")]
    public async Task The_list_is_asked_by_how_much_can_be_found(string query, string paths) =>
        string.Join(' ', await PathsAsync(query)).ShouldBe(paths);

    [Fact]
    public async Task The_facets_count_them() =>
        (await ines.GetOk("items/facets"))
            .EnumerateArray()
            .Single(f => f.GetProperty("name").GetString() == "searchable")
            .GetProperty("values")
            .EnumerateArray()
            .ToDictionary(v => v.GetProperty("value").GetString()!, v => v.GetProperty("count").GetInt64())
            .ShouldBe(
                new Dictionary<string, long>
                {
                    ["none"] = 1,
                    ["password"] = 2,
                    ["scan"] = 1,
                    ["whole"] = 1,
                },
                ignoreOrder: true
            );

    [Fact]
    public async Task Another_word_for_it_is_refused() =>
        (await ines.Get("items?searchable=locked")).Problem.ShouldBe("value-unknown");
}
