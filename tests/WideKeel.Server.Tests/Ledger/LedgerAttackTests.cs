using System.Net;
using System.Security.Cryptography;
using System.Text;
using Microsoft.Data.Sqlite;
using WideKeel.Core.Ledger;
using WideKeel.Server.Ledger;
using WideKeel.Store.Ledger;

namespace WideKeel.Server.Tests.Ledger;

/// <summary>
/// What somebody who can write the data folder can try, attack by attack as docs/ledger.md lists them, and what notices
/// each.
/// </summary>
public sealed class LedgerAttackTests : IAsyncLifetime
{
    private readonly Product product = new();

    public ValueTask InitializeAsync() => product.InitializeAsync();

    public ValueTask DisposeAsync() => product.DisposeAsync();

    private string HeadsFile => Path.Combine(product.Data, Heads.FileName);

    private void Sql(string text)
    {
        using var connection = new SqliteConnection($"Data Source={product.DatabaseFile};Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = text;
        command.ExecuteNonQuery();
    }

    /// <summary>With the triggers out of the way that make the table append-only.</summary>
    private void SqlWithoutTriggers(string text)
    {
        using var connection = new SqliteConnection($"Data Source={product.DatabaseFile};Pooling=False");
        connection.Open();
        using var names = connection.CreateCommand();
        names.CommandText = "SELECT name FROM sqlite_master WHERE type = 'trigger' AND tbl_name = 'ledger'";
        List<string> triggers = [];
        using (var reader = names.ExecuteReader())
        {
            while (reader.Read())
            {
                triggers.Add(reader.GetString(0));
            }
        }

        using var command = connection.CreateCommand();
        command.CommandText = string.Concat(triggers.Select(t => $"DROP TRIGGER {t};")) + text;
        command.ExecuteNonQuery();
    }

    private string? Finding(IReadOnlyList<string>? copy = null) =>
        LedgerReader.Verify(product.DatabaseFile, copy).Finding;

    private async Task<Api> JonasAsync() => await product.SignInAsync("jonas");

    private static Task<Answer> AddUnitAsync(Api who, Product of, string name) =>
        who.Post("units", new { name, parentId = of.Units["Fleet"] });

    /// <summary>An entry as another program would append it, with the right number and hash.</summary>
    private void Forge()
    {
        var last = LedgerReader.Verify(product.DatabaseFile).Entries;
        var body = new LedgerEntry(
            last + 1,
            product.Clock.GetCurrentInstant(),
            new LedgerActor("ines"),
            "signed-off",
            new LedgerSubject("batch", "1")
        ).ToCanonicalText();
        var leaf = Convert.ToHexString(MerkleTree.LeafHash(Encoding.UTF8.GetBytes(body)));
        Sql(
            $"INSERT INTO ledger (Sequence, Body, LeafHash) VALUES ({last + 1}, '{body.Replace("'", "''")}', X'{leaf}')"
        );
    }

    [Fact]
    public async Task The_product_does_not_start_where_the_heads_were_deleted()
    {
        await product.StopAsync();
        File.Delete(HeadsFile);
        (await Should.ThrowAsync<NotOursException>(product.StartAsync)).Message.ShouldContain("no signed head");
    }

    [Fact]
    public async Task It_does_not_start_where_the_key_was_deleted()
    {
        await product.StopAsync();
        File.Delete(Path.Combine(product.Data, "ledger-key.pem"));
        (await Should.ThrowAsync<NotOursException>(product.StartAsync)).Message.ShouldContain("is missing");
    }

    [Fact]
    public async Task It_does_not_start_with_a_private_key_that_was_replaced_alone()
    {
        await product.StopAsync();
        using var other = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        File.WriteAllText(Path.Combine(product.Data, "ledger-key.pem"), other.ExportPkcs8PrivateKeyPem());
        (await Should.ThrowAsync<NotOursException>(product.StartAsync)).Message.ShouldContain(
            "one of them was replaced"
        );
    }

    private async Task SetBackAsync()
    {
        using var jonas = await JonasAsync();
        product.Clock.Advance(NodaTime.Duration.FromHours(-3));
        await jonas.PostOk("units", new { name = "Yard", parentId = product.Units["Fleet"] });
    }

    [Fact]
    public async Task A_clock_that_went_back_is_an_entry()
    {
        await SetBackAsync();
        IsWritten("clock-went-back").ShouldBeTrue();
    }

    [Fact]
    public async Task Verification_names_it()
    {
        await SetBackAsync();
        using var ines = await product.SignInAsync("ines");
        (await ines.GetOk("ledger/verification"))
            .GetProperty("remarks")[0]
            .GetString()!
            .ShouldStartWith("The clock went back before entry");
    }

    [Fact]
    public async Task Administrators_see_it()
    {
        await SetBackAsync();
        using var jonas = await JonasAsync();
        (await jonas.GetOk("troubles")).ToString().ShouldContain("clock went back");
    }

    [Theory]
    [InlineData("UPDATE api_key SET PersonId = 1", "api_key")]
    [InlineData("UPDATE webhook SET Url = 'https://elsewhere.example'", "webhook")]
    [InlineData("UPDATE channel SET OpenToAnalysts = 1", "channel")]
    [InlineData("INSERT INTO channel_reader (ChannelId, PersonId) SELECT Id, 1 FROM channel", "channel_reader")]
    public async Task Who_reads_and_who_is_told_cannot_be_changed_by_SQL_unseen(string sql, string rows)
    {
        using (var jonas = await JonasAsync())
        using (var ines = await product.SignInAsync("ines"))
        {
            await Activity.Channels.MakeAsync(jonas, "gateway", settings: Activity.Channels.Settings(open: false));
            await ines.PostOk(
                "api-keys",
                new
                {
                    name = "reader",
                    scopes = new[] { "readContent" },
                    days = 5,
                }
            );
            await ines.PostOk(
                "webhooks",
                new
                {
                    name = "Tickets",
                    url = "https://tickets.example/in",
                    secret = "a-key-of-sixteen-characters",
                    active = true,
                }
            );
            product.Clock.AdvanceDays(1);
            await jonas.WaitForAsync("units", _ => DigestIsWritten());
        }

        await product.StopAsync();
        Sql(sql);
        Finding()!.ShouldStartWith($"Rows of “{rows}” were changed");
    }

    [Fact]
    public async Task It_does_not_start_with_another_key_pair_that_signed_everything_anew()
    {
        await product.StopAsync();
        using var other = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var range = new CompactRange();
        using (var connection = new SqliteConnection($"Data Source={product.DatabaseFile};Pooling=False"))
        {
            connection.Open();
            foreach (var leaf in LedgerReader.LeafHashes(connection))
            {
                range.Append(leaf);
            }
        }

        File.WriteAllText(Path.Combine(product.Data, "ledger-key.pem"), other.ExportPkcs8PrivateKeyPem());
        File.WriteAllText(Path.Combine(product.Data, "ledger-public.pem"), other.ExportSubjectPublicKeyInfoPem());
        File.WriteAllText(
            HeadsFile,
            TreeHead.Sign(range.Size, range.Root(), product.Clock.GetCurrentInstant(), other).ToLine() + "\n"
        );
        (await Should.ThrowAsync<NotOursException>(product.StartAsync)).Message.ShouldContain("names another key");
    }

    [Fact]
    public async Task An_entry_appended_by_another_program_is_not_signed_over()
    {
        using var jonas = await JonasAsync();
        Forge();
        (await AddUnitAsync(jonas, product, "Yard")).Problem.ShouldBe("out-of-service");
    }

    [Fact]
    public async Task What_could_not_be_signed_was_not_changed_either()
    {
        using var jonas = await JonasAsync();
        Forge();
        await AddUnitAsync(jonas, product, "Yard");
        await using var db = product.Database();
        db.Units.Any(u => u.Name == "Yard").ShouldBeFalse();
    }

    [Fact]
    public async Task Two_appended_entries_are_found_by_verification()
    {
        await product.StopAsync();
        Forge();
        product.Clock.AdvanceDays(1);
        Forge();
        Finding()!.ShouldContain("covered by no signed head");
    }

    [Fact]
    public async Task The_last_entry_edited_with_its_head_dropped_is_found_by_the_second_place()
    {
        await product.StopAsync();
        var copy = await File.ReadAllLinesAsync(HeadsFile, TestContext.Current.CancellationToken);
        await File.WriteAllLinesAsync(HeadsFile, copy[..^1], TestContext.Current.CancellationToken);
        var last = LedgerReader.Verify(product.DatabaseFile).Entries;
        SqlWithoutTriggers($"DELETE FROM ledger WHERE Sequence = {last}");
        Finding(copy)!.ShouldStartWith("Against the copy: The tail is missing");
    }

    private async Task GiveRoleBySqlAsync()
    {
        using (var jonas = await JonasAsync())
        {
            product.Clock.AdvanceDays(1);
            await jonas.WaitForAsync("units", _ => DigestIsWritten());
        }

        await product.StopAsync();
        Sql(
            "UPDATE remit SET Role = 'Administrator' WHERE PersonId = (SELECT Id FROM person WHERE DisplayName = 'pia')"
        );
    }

    [Fact]
    public async Task A_role_given_by_SQL_is_found()
    {
        await GiveRoleBySqlAsync();
        Finding()!.ShouldStartWith("Rows of “remit” were changed");
    }

    [Theory]
    [InlineData("DELETE FROM authenticator", "authenticator")]
    [InlineData(
        "INSERT INTO recovery_code (PersonId, Hash) SELECT PersonId, 'of a known code' FROM authenticator",
        "recovery_code"
    )]
    public async Task One_time_codes_that_SQL_takes_away_or_gets_around_are_found(string sql, string rows)
    {
        Sql("INSERT INTO authenticator (PersonId, Key) SELECT Id, 'AAAA' FROM person WHERE DisplayName = 'pia'");
        using (var jonas = await JonasAsync())
        {
            product.Clock.AdvanceDays(1);
            await jonas.WaitForAsync("units", _ => DigestIsWritten());
        }

        await product.StopAsync();
        Sql(sql);
        Finding()!.ShouldStartWith($"Rows of “{rows}” were changed");
    }

    [Fact]
    public async Task It_does_not_keep_the_product_from_starting()
    {
        await GiveRoleBySqlAsync();
        await product.StartAsync();
        using var jonas = await JonasAsync();
        (await jonas.Get("units")).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task The_next_daily_run_writes_what_differs_into_the_ledger()
    {
        await GiveRoleBySqlAsync();
        await product.StartAsync();
        using var jonas = await JonasAsync();
        product.Clock.AdvanceDays(1);
        await jonas.WaitForAsync("units", _ => IsWritten("state-differs"));
    }

    private bool DigestIsWritten() => IsWritten(StateDigest.Verb);

    private bool IsWritten(string verb)
    {
        using var db = product.Database();
        return db.Ledger.Any(e => e.Verb == verb);
    }

    [Fact]
    public async Task With_heads_that_cannot_be_written_the_answer_is_the_truth()
    {
        using var jonas = await JonasAsync();
        File.Delete(HeadsFile);
        Directory.CreateDirectory(HeadsFile);
        (await AddUnitAsync(jonas, product, "Yard"))
            .Body.GetProperty("title")
            .GetString()!
            .ShouldStartWith("Your change is stored, but its seal could not be written");
    }

    [Fact]
    public async Task Until_they_can_be_written_nothing_more_is_changed()
    {
        using var jonas = await JonasAsync();
        File.Delete(HeadsFile);
        Directory.CreateDirectory(HeadsFile);
        await AddUnitAsync(jonas, product, "Yard");
        (await AddUnitAsync(jonas, product, "Dock"))
            .Body.GetProperty("title")
            .GetString()!
            .ShouldStartWith("No change is taken");
    }

    [Fact]
    public async Task Once_they_can_the_missing_head_is_signed_first()
    {
        using var jonas = await JonasAsync();
        var lines = await File.ReadAllLinesAsync(HeadsFile, TestContext.Current.CancellationToken);
        File.Delete(HeadsFile);
        Directory.CreateDirectory(HeadsFile);
        await AddUnitAsync(jonas, product, "Yard");
        Directory.Delete(HeadsFile);
        await File.WriteAllLinesAsync(HeadsFile, lines, TestContext.Current.CancellationToken);
        (await AddUnitAsync(jonas, product, "Dock")).Status.ShouldBe(HttpStatusCode.OK);
        Finding().ShouldBeNull();
    }

    [Fact]
    public async Task Each_head_lies_in_the_second_place_as_well()
    {
        await product.StopAsync();
        product.HeadsTo = Path.Combine(product.Folder, "elsewhere");
        await product.StartAsync();
        using var jonas = await JonasAsync();
        await AddUnitAsync(jonas, product, "Yard");
        var copy = Path.Combine(product.HeadsTo, Heads.FileName);
        await jonas.WaitForAsync(
            "units",
            _ => File.Exists(copy) && File.ReadAllLines(copy).LastOrDefault() == File.ReadAllLines(HeadsFile)[^1]
        );
        Finding(await File.ReadAllLinesAsync(copy, TestContext.Current.CancellationToken)).ShouldBeNull();
    }

    [Fact]
    public async Task A_second_place_that_fails_at_first_gets_the_head_later()
    {
        using var listener = new HttpListener();
        var address = $"http://127.0.0.1:{FreePort()}/";
        listener.Prefixes.Add(address);
        listener.Start();
        await product.StopAsync();
        product.HeadsTo = address;
        await product.StartAsync();
        var first = await listener.GetContextAsync();
        first.Response.StatusCode = 500;
        first.Response.Close();
        var second = await listener.GetContextAsync();
        using var body = new StreamReader(second.Request.InputStream);
        var line = await body.ReadToEndAsync(TestContext.Current.CancellationToken);
        second.Response.Close();
        File.ReadAllLines(HeadsFile).ShouldContain(line);
    }

    private static int FreePort()
    {
        using var socket = new System.Net.Sockets.TcpListener(IPAddress.Loopback, 0);
        socket.Start();
        return ((IPEndPoint)socket.LocalEndpoint).Port;
    }

    [Theory]
    [InlineData("ftp://host/heads", false)]
    [InlineData("syslog://host:514", true)]
    [InlineData("https://host/heads", true)]
    [InlineData("/data/./", false)]
    [InlineData("/elsewhere", true)]
    public void A_second_place_is_another_folder_a_syslog_address_or_a_URL(string place, bool good) =>
        (SecondPlace.Check(place, "/data/") is null).ShouldBe(good);
}
