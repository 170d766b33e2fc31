using System.Net;
using WideKeel.Core.AtRest;
using WideKeel.Server.Activity;
using WideKeel.Server.Kernel;
using WideKeel.Server.Tests.Activity;
using WideKeel.Sources;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Tests.Jobs;

/// <summary>The archive and safekeeping lie encrypted, and everything that reads them still does.</summary>
public sealed class EncryptionTests : IAsyncLifetime
{
    private const string Words = "The pier was photographed at night.";
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private Api jonas = null!;
    private string key = "";

    /// <summary>One protected file and one sealed day, both in the open.</summary>
    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        jonas = await product.SignInAsync("jonas");
        using (var ines = await product.SignInAsync("ines"))
        {
            product.Write("Island/a.md", "2024-01-01", Words);
            var containers = await product.ScanAsync();
            await product.SeriesInForceAsync(ines, "ISL-010", "Island", [containers["Island"]], Product.Definition());
        }

        var channel = await Channels.MakeAsync(jonas, "gateway", settings: Channels.Settings(retention: "P1Y"));
        key = await Channels.KeyAsync(jonas, channel);
        await SealAsync("2026-06-13", 5);
    }

    public async ValueTask DisposeAsync()
    {
        jonas.Dispose();
        await product.DisposeAsync();
    }

    private string KeysFile => Path.Combine(product.Data, "keys-at-rest.json");

    private string[] Masters => Directory.GetFiles(product.Secrets, "master-*.key");

    private async Task SealAsync(string day, int events)
    {
        await Channels.SendAsync(
            product,
            "gateway",
            key,
            string.Join(
                '\n',
                Enumerable.Range(0, events).Select(i => Channels.Line($"{day}-{i}", $"{day}T08:00:0{i}Z", "file.read"))
            )
        );
        await jonas.PostOk("channels/seal", new { });
        await jonas.WaitForJobsAsync();
    }

    private async Task EncryptAsync()
    {
        await jonas.PostOk("encryption", new { });
        await jonas.WaitForJobsAsync();
    }

    private string[] FilesOf(string folder) =>
        Directory.GetFiles(Path.Combine(product.Data, folder), "*", SearchOption.AllDirectories);

    private async Task<string> ExportAsync()
    {
        using var ines = await product.SignInAsync("ines");
        return (await ines.Get("ledger/export")).Text!;
    }

    private async Task RestartAsync()
    {
        jonas.Dispose();
        await product.StopAsync();
        await product.StartAsync();
        jonas = await product.SignInAsync("jonas");
    }

    private async Task<string?> VerifiedAsync()
    {
        using var ines = await product.SignInAsync("ines");
        await ines.PostOk("safekeeping/verification", new { });
        await ines.WaitForJobsAsync();
        return (await ines.GetOk("safekeeping")).GetProperty("verified").GetString();
    }

    private async Task<long> EventsBySqlAsync()
    {
        using var analyst = await product.SignInAsync("sunniva");
        var answer = await analyst.PostOk("statements/answers", new { sql = "SELECT count(*) FROM events" });
        return answer.GetProperty("rows")[0][0].GetInt64();
    }

    /// <summary>The archive as somebody with the secrets sees it.</summary>
    private ArchiveFiles WithKeys()
    {
        var keyring = new RestKeyring();
        new RestKeyFiles(product.Data, product.Secrets, keyring).Open();
        return new(Path.Combine(product.Data, "archive"), Path.Combine(product.Folder, "open"), keyring);
    }

    [Theory]
    [InlineData("safekeeping")]
    [InlineData("archive")]
    public async Task No_file_is_left_in_the_open(string folder)
    {
        await EncryptAsync();
        FilesOf(folder).ShouldAllBe(f => f.EndsWith(".enc", StringComparison.Ordinal));
    }

    [Fact]
    public async Task The_content_does_not_stand_on_the_disk()
    {
        await EncryptAsync();
        var file = FilesOf("safekeeping").Single();
        (await File.ReadAllTextAsync(file, stop)).ShouldNotContain("pier");
    }

    [Fact]
    public async Task Copies_are_verified_as_before()
    {
        await EncryptAsync();
        (await VerifiedAsync()).ShouldBe("1 copies read; all are what they were.");
    }

    [Fact]
    public async Task A_lost_file_comes_back_from_its_encrypted_copy_as_it_was()
    {
        await EncryptAsync();
        var file = Path.Combine(product.Share, "Island", "a.md");
        var before = await File.ReadAllTextAsync(file, stop);
        File.Delete(file);
        await product.ScanAsync();
        using var ines = await product.SignInAsync("ines");
        var copy = (await ines.GetOk("items/1/copies"))[0].GetProperty("hash").GetString();
        await ines.PostOk("items/1/restoration", new { hash = copy, why = "It was deleted by mistake." });
        (await File.ReadAllTextAsync(file, stop)).ShouldBe(before);
    }

    [Fact]
    public async Task One_altered_byte_of_a_copy_is_found()
    {
        await EncryptAsync();
        var file = FilesOf("safekeeping").Single();
        var bytes = await File.ReadAllBytesAsync(file, stop);
        bytes[^3] ^= 1;
        await File.WriteAllBytesAsync(file, bytes, stop);
        File.Delete(Path.Combine(product.Share, "Island", "a.md"));
        (await VerifiedAsync()).ShouldBe(
            "1 copies read; 1 are not what they were, 0 of them made anew from the source."
        );
    }

    [Fact]
    public async Task Statements_answer_over_encrypted_days_and_those_sealed_afterwards()
    {
        await EncryptAsync();
        await SealAsync("2026-06-14", 3);
        (await EventsBySqlAsync()).ShouldBe(8);
    }

    [Fact]
    public async Task What_a_statement_decrypted_is_gone_when_it_has_ended()
    {
        await EncryptAsync();
        await EventsBySqlAsync();
        Directory.GetFiles(ArchiveFiles.OpenFolderFor(Path.Combine(product.Data, "archive"))).ShouldBeEmpty();
    }

    [Fact]
    public async Task An_event_of_an_encrypted_day_has_its_proof()
    {
        await EncryptAsync();
        using var analyst = await product.SignInAsync("sunniva");
        var id = (await analyst.GetOk("events")).GetProperty("events")[0].GetProperty("id").GetInt64();
        (await analyst.GetOk($"events/{id}/proof")).GetProperty("size").GetInt32().ShouldBe(5);
    }

    [Fact]
    public async Task Encrypted_days_lead_to_their_roots_in_the_ledger()
    {
        await EncryptAsync();
        await SealAsync("2026-06-14", 3);
        SegmentVerifier.Verify(WithKeys(), await ExportAsync()).Value.Findings.ShouldBeEmpty();
    }

    [Fact]
    public async Task Whoever_has_no_keys_learns_that_they_are_needed()
    {
        await EncryptAsync();
        SegmentVerifier
            .Verify(product.Archive(), await ExportAsync())
            .Value.Findings.Single()
            .ShouldEndWith("the file cannot be decrypted: It is encrypted, and no keys are there.");
    }

    [Fact]
    public async Task A_day_cannot_stand_in_for_another()
    {
        await EncryptAsync();
        await SealAsync("2026-06-14", 5);
        var files = FilesOf("archive").Order(StringComparer.Ordinal).ToArray();
        File.Copy(files[0], files[1], overwrite: true);
        SegmentVerifier.Verify(WithKeys(), await ExportAsync()).Value.Findings.Count.ShouldBe(1);
    }

    [Fact]
    public async Task A_rotation_leaves_what_was_encrypted_before_readable()
    {
        await EncryptAsync();
        await jonas.PostOk("encryption/rotation", new { });
        await SealAsync("2026-06-14", 3);
        await RestartAsync();
        (await EventsBySqlAsync()).ShouldBe(8);
    }

    [Fact]
    public async Task A_rotation_replaces_the_master_key()
    {
        await EncryptAsync();
        var former = Masters.Single();
        await jonas.PostOk("encryption/rotation", new { });
        Masters.Single().ShouldNotBe(former);
    }

    [Fact]
    public async Task A_rotation_that_was_killed_before_its_end_leaves_the_former_keys_in_use()
    {
        await EncryptAsync();
        // The new master key was written, and the keys were not yet wrapped by it.
        await File.WriteAllTextAsync(
            Path.Combine(product.Secrets, $"master-{Guid.NewGuid()}.key"),
            Convert.ToBase64String(new byte[32]),
            stop
        );
        await RestartAsync();
        (await EventsBySqlAsync()).ShouldBe(5);
    }

    [Fact]
    public async Task An_encryption_that_was_killed_in_the_middle_is_ended_by_the_next_one()
    {
        await EncryptAsync();
        var file = FilesOf("archive").Single();
        // Encrypted, and the file in the open had not gone yet.
        WithKeys().CopyOpen(Path.GetRelativePath(Path.Combine(product.Data, "archive"), file[..^4]), file[..^4]);
        await jonas.PostOk("encryption/rotation", new { });
        await jonas.WaitForJobsAsync();
        FilesOf("archive").ShouldBe([file]);
    }

    [Fact]
    public async Task Without_the_secrets_nothing_starts_and_the_missing_file_is_named()
    {
        await EncryptAsync();
        var master = Masters.Single();
        jonas.Dispose();
        await product.StopAsync();
        File.Move(master, master + ".away");
        var refused = await Should.ThrowAsync<NotOursException>(product.StartAsync);
        File.Move(master + ".away", master);
        await product.StartAsync();
        jonas = await product.SignInAsync("jonas");
        refused.Message.ShouldContain(master);
    }

    [Fact]
    public async Task The_keys_beside_the_data_are_for_the_service_s_account_only()
    {
        await EncryptAsync();
        File.GetUnixFileMode(KeysFile).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
    }

    [Fact]
    public async Task What_is_encrypted_is_not_begun_again()
    {
        await EncryptAsync();
        (await jonas.Post("encryption", new { })).Problem.ShouldBe("encrypted-already");
    }

    [Fact]
    public async Task Where_nothing_is_encrypted_there_is_nothing_to_rotate() =>
        (await jonas.Post("encryption/rotation", new { })).Problem.ShouldBe("not-encrypted");

    [Fact]
    public async Task The_ledger_names_the_key_that_a_rotation_made()
    {
        await EncryptAsync();
        await jonas.PostOk("encryption/rotation", new { });
        var newest = (await jonas.GetOk("encryption")).GetProperty("keys")[0].GetProperty("id").GetString()!;
        (await ExportAsync()).ShouldContain(newest);
    }

    [Fact]
    public async Task How_many_files_lie_which_way_can_be_seen()
    {
        await EncryptAsync();
        (await jonas.GetOk("encryption"))
            .GetProperty("contents")
            .EnumerateArray()
            .Select(c => $"{c.GetProperty("name")} {c.GetProperty("inTheOpen")} {c.GetProperty("encrypted")}")
            .ShouldBe(["Safekeeping 0 1", "Archive 0 1"]);
    }

    [Fact]
    public async Task A_security_analyst_does_not_touch_the_keys()
    {
        using var analyst = await product.SignInAsync("sunniva");
        (await analyst.Post("encryption", new { })).Status.ShouldBe(HttpStatusCode.Forbidden);
    }
}
