using Microsoft.Data.Sqlite;

namespace WideKeel.Server.Tests.Kernel;

public class StartTests
{
    [Fact]
    public async Task A_database_with_the_tables_of_another_version_is_refused_in_a_sentence_that_names_its_folder()
    {
        await using var product = await AfterAsync(ForeignStep);
        var refusal = await Should.ThrowAsync<NotOursException>(product.StartAsync);
        refusal.Message.ShouldStartWith(
            $"The database in {product.Data} has tables that this version does not know (step 20261127014948_DestroyedItems)."
        );
    }

    [Fact]
    public async Task A_database_that_was_refused_is_as_it_was()
    {
        await using var product = await AfterAsync(ForeignStep);
        var before = await File.ReadAllBytesAsync(product.DatabaseFile, TestContext.Current.CancellationToken);
        await Should.ThrowAsync<NotOursException>(product.StartAsync);
        (await File.ReadAllBytesAsync(product.DatabaseFile, TestContext.Current.CancellationToken)).ShouldBe(before);
    }

    [Fact]
    public async Task A_host_that_was_stopped_is_let_go()
    {
        var host = await StoppedAsync();
        for (var i = 0; i < 10 && host.IsAlive; i++)
        {
            GC.Collect();
            GC.WaitForPendingFinalizers();
        }

        host.IsAlive.ShouldBeFalse();
    }

    /// <summary>Of its own, so that no local variable keeps it.</summary>
    private static async Task<WeakReference> StoppedAsync()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        using (await product.SignInAsync("ines")) { }

        return product.Host;
    }

    [Fact]
    public async Task A_second_process_on_one_data_folder_is_refused()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        Should
            .Throw<NotOursException>(() =>
                WideKeelHost.Create(
                    new()
                    {
                        DataFolder = product.Data,
                        SecretsFolder = product.Secrets,
                        Urls = "http://127.0.0.1:0",
                    }
                )
            )
            .Message.ShouldContain("Another process works in");
    }

    [Theory]
    [InlineData("DROP TABLE recovery_code", "table recovery_code")]
    [InlineData("ALTER TABLE authenticator DROP COLUMN UsedStep", "column UsedStep of table authenticator")]
    public async Task A_database_of_an_earlier_build_is_refused_in_a_sentence_that_names_what_it_lacks(
        string sql,
        string lacks
    )
    {
        await using var product = await AfterAsync(sql);
        var refusal = await Should.ThrowAsync<NotOursException>(product.StartAsync);
        refusal.Message.ShouldStartWith($"The database in {product.Data} has no {lacks}: an earlier build made it.");
    }

    private const string ForeignStep =
        "INSERT INTO __EFMigrationsHistory (MigrationId, ProductVersion) VALUES ('20261127014948_DestroyedItems', '10')";

    /// <summary>A product that is stopped, and whose database another program changed since.</summary>
    private static async Task<Product> AfterAsync(string sql)
    {
        var product = new Product();
        await product.InitializeAsync();
        await product.StopAsync();
        using (var connection = new SqliteConnection($"Data Source={product.DatabaseFile};Pooling=False"))
        {
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText = sql;
            command.ExecuteNonQuery();
        }

        return product;
    }
}
