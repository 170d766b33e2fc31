using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Shouldly;
using WideKeel.Server.Tests.Matters;

namespace WideKeel.Server.Tests.Workspace;

/// <summary>People at work in the workspace: each operation asks the grade table first.</summary>
public sealed class WorkspaceTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly Dictionary<string, long> libraries = [];

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private string Root => Path.Combine(product.Folder, "workspace");

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        foreach (
            var (library, file) in new[]
            {
                ("Plain", "notes.md"),
                ("Kept", "plan.md"),
                ("Declared", "permit.md"),
                ("#talk", "2026-06-01 080000 pia.md"),
            }
        )
        {
            Directory.CreateDirectory(Path.Combine(Root, library));
            await File.WriteAllTextAsync(
                Path.Combine(Root, library, file),
                $"---\ncreated: 2026-01-01\n---\nfirst words in {library}\n",
                Stop
            );
        }

        using var admin = await product.SignInAsync("jonas");
        await admin.PostOk(
            "sources",
            new
            {
                name = "Workspace",
                root = Root,
                kind = "workspace",
            }
        );
        await admin.WaitForJobsAsync();
        foreach (var container in (await admin.GetOk("sources"))[0].GetProperty("containers").EnumerateArray())
        {
            libraries[container.GetProperty("name").GetString()!] = container.GetProperty("id").GetInt64();
            await admin.Put(
                $"containers/{container.GetProperty("id").GetInt64()}",
                new { unitId = product.Units["Island"] },
                container.GetProperty("revision").GetInt64()
            );
        }

        using var ines = await product.SignInAsync("ines");
        await product.SeriesInForceAsync(
            ines,
            "KEP-010",
            "Island",
            [libraries["Kept"]],
            Product.Definition(period: "P5Y")
        );
        await product.SeriesInForceAsync(
            ines,
            "DEC-010",
            "Island",
            [libraries["Declared"]],
            Product.Definition(period: "P5Y", grade: "declared")
        );
    }

    public ValueTask DisposeAsync() => product.DisposeAsync();

    [Fact]
    public async Task Under_no_rule_a_file_is_edited_renamed_moved_and_gone_when_deleted()
    {
        using var pia = await product.SignInAsync("pia");
        var id = await FileAsync(pia, "Plain");
        var edited = await ChangeAsync(pia, "PUT", id, "text", new { text = "second words" });
        edited
            .GetProperty("versions")
            .EnumerateArray()
            .Select(v => (v.GetProperty("number").GetInt32(), v.GetProperty("isNow").GetBoolean()))
            .ShouldBe([(2, true), (1, false)]);
        (await pia.GetOk("items?cql=second")).GetProperty("total").GetInt64().ShouldBe(1);
        (await pia.GetOk("items?cql=first")).GetProperty("total").GetInt64().ShouldBe(3);
        (await pia.Put($"workspace/files/{id}/text", new { text = "stale" }, 1)).Problem.ShouldBe("stale");
        (await ChangeAsync(pia, "POST", id, "versions/1/restoration", new { }))
            .GetProperty("text")
            .GetString()!
            .ShouldContain("first words in Plain");
        (await ChangeAsync(pia, "POST", id, "name", new { name = "better.md" }))
            .GetProperty("name")
            .GetString()
            .ShouldBe("better.md");
        (await SendAsync(pia, "POST", id, "name", new { name = "better.exe" })).Problem.ShouldBe("type-changed");
        (await SendAsync(pia, "POST", id, "name", new { name = "../x.md" })).Problem.ShouldBe("name-malformed");
        (await ChangeAsync(pia, "POST", id, "place", new { libraryId = libraries["Kept"], folder = "sub" }))
            .GetProperty("folder")
            .GetString()
            .ShouldBe("sub");
        File.Exists(Path.Combine(Root, "Kept/sub/better.md")).ShouldBeTrue();
        (await SendAsync(pia, "DELETE", id, "", null)).Status.ShouldBe(HttpStatusCode.OK);
        File.Exists(Path.Combine(Root, "Kept/sub/better.md")).ShouldBeFalse();
        (await pia.Get($"workspace/files/{id}")).Status.ShouldBe(HttpStatusCode.NotFound);

        // What people did here a scan finds as it is known already.
        using var jonas = await product.SignInAsync("jonas");
        await jonas.PostOk("sources/1/scans", new { });
        await jonas.WaitForJobsAsync();
        (await jonas.GetOk("jobs"))[0]
            .GetProperty("message")
            .GetString()
            .ShouldBe("3 files: 0 new, 0 changed, 0 moved, 0 gone, 0 could not be read.");
    }

    [Fact]
    public async Task A_deletion_asks_orders_that_have_not_been_applied_yet()
    {
        using var vera = await product.SignInAsync("vera");
        var matter = await vera.PostOk(
            "matters",
            new
            {
                name = "Words",
                description = "",
                kind = "litigation",
                unitId = product.Units["Tarn Lines"],
            }
        );
        var order = await MatterTests.InForceAsync(
            vera,
            matter.GetProperty("id").GetInt64(),
            "All",
            MatterTests.Everything("words")
        );
        using var pia = await product.SignInAsync("pia");
        var id = await FileAsync(pia, "Plain");
        await using (var db = product.Database())
        {
            // As it is between the order and the job that applies it.
            await db.HoldItems.Where(h => h.OrderId == order).ExecuteDeleteAsync(Stop);
            await db.ItemCopies.Where(c => c.ItemId == id).ExecuteDeleteAsync(Stop);
            await db
                .HoldOrders.Where(o => o.Id == order)
                .ExecuteUpdateAsync(set => set.SetProperty(o => o.AppliedAt, (Instant?)null), Stop);
        }

        (await SendAsync(pia, "DELETE", id, "", null)).Status.ShouldBe(HttpStatusCode.OK);
        await using var after = product.Database();
        (await after.ItemCopies.CountAsync(c => c.ItemId == id, Stop)).ShouldBe(1);
    }

    private async Task<long> FileWithIbanAsync()
    {
        using var pia = await product.SignInAsync("pia");
        var id = await FileAsync(pia, "Plain");
        await ChangeAsync(pia, "PUT", id, "text", new { text = "IBAN GB82 WEST 1234 5698 7654 32" });
        return id;
    }

    [Fact]
    public async Task A_reader_sees_no_more_of_a_file_than_its_preview_shows()
    {
        var id = await FileWithIbanAsync();
        using var nils = await product.SignInAsync("nils");
        (await nils.GetOk($"workspace/files/{id}")).GetProperty("text").GetString()!.ShouldNotContain("WEST 1234");
    }

    [Fact]
    public async Task A_reader_takes_no_copy_of_what_is_masked()
    {
        var id = await FileWithIbanAsync();
        using var nils = await product.SignInAsync("nils");
        (await nils.Get($"workspace/files/{id}/content")).Problem.ShouldBe("masked");
    }

    [Fact]
    public async Task Whoever_works_in_a_file_reads_it_as_it_is()
    {
        var id = await FileWithIbanAsync();
        using var pia = await product.SignInAsync("pia");
        (await pia.GetOk($"workspace/files/{id}")).GetProperty("text").GetString()!.ShouldContain("WEST 1234");
    }

    [Fact]
    public async Task What_is_kept_is_edited_and_deleted_with_its_former_state_in_safekeeping()
    {
        using var pia = await product.SignInAsync("pia");
        using var ines = await product.SignInAsync("ines");
        var id = await FileAsync(pia, "Kept");
        (await ChangeAsync(pia, "PUT", id, "text", new { text = "changed" }))
            .GetProperty("operations")
            .EnumerateArray()
            .Single(o => o.GetProperty("operation").GetString() == "delete")
            .GetProperty("sentence")
            .GetString()
            .ShouldBe("It disappears here and is kept in safekeeping.");
        (await SendAsync(pia, "DELETE", id, "", null)).Status.ShouldBe(HttpStatusCode.OK);
        var copies = await ines.GetOk($"items/{id}/copies");
        copies.GetArrayLength().ShouldBe(2);
        (await ines.GetOk("items?cql=changed"))
            .GetProperty("items")[0]
            .GetProperty("missing")
            .GetBoolean()
            .ShouldBeTrue();
        await ines.PostOk(
            $"items/{id}/restoration",
            new
            {
                hash = copies
                    .EnumerateArray()
                    .Single(c => c.GetProperty("isNow").GetBoolean())
                    .GetProperty("hash")
                    .GetString(),
                why = "asked for",
            }
        );
        await ines.WaitForJobsAsync();
        (await File.ReadAllTextAsync(Path.Combine(Root, "Kept/plan.md"), Stop)).ShouldBe("changed");
        (await pia.GetOk($"workspace/files/{id}")).GetProperty("text").GetString().ShouldBe("changed");
    }

    [Fact]
    public async Task A_declared_record_refuses_edit_and_delete_in_a_sentence_and_takes_a_new_version_beside_it()
    {
        using var pia = await product.SignInAsync("pia");
        using var ines = await product.SignInAsync("ines");
        var id = await FileAsync(pia, "Declared");
        var edit = await SendAsync(pia, "PUT", id, "text", new { text = "changed" });
        (edit.Status, edit.Problem).ShouldBe((HttpStatusCode.Forbidden, "grade"));
        edit.Body.GetProperty("title")
            .GetString()
            .ShouldBe(
                "It is declared a record: its content stays as it is. A new version becomes a new item, linked to this one."
            );
        (await SendAsync(pia, "DELETE", id, "", null)).Problem.ShouldBe("grade");
        (await SendAsync(pia, "POST", id, "name", new { name = "renamed.md" })).Status.ShouldBe(HttpStatusCode.OK);
        (await ines.GetOk($"items/{id}/history"))
            .EnumerateArray()
            .Select(e => e.GetProperty("verb").GetString())
            .Take(3)
            .ShouldBe(["renamed", "refused-delete", "refused-edit-content"]);
        var next = await pia.PostOk($"workspace/files/{id}/successor", new { text = "second version" });
        (next.GetProperty("name").GetString(), next.GetProperty("follows").GetProperty("id").GetInt64()).ShouldBe(
            ("renamed v2.md", id)
        );
        (await pia.GetOk($"workspace/files/{id}"))
            .GetProperty("next")
            .GetProperty("name")
            .GetString()
            .ShouldBe("renamed v2.md");
        (await pia.Post($"workspace/files/{id}/successor", new { text = "third" })).Problem.ShouldBe(
            "already-followed"
        );
        (await File.ReadAllTextAsync(Path.Combine(Root, "Declared/renamed.md"), Stop)).ShouldContain("first words");
    }

    [Fact]
    public async Task A_held_file_seems_to_go_for_its_owner_and_does_not()
    {
        using var pia = await product.SignInAsync("pia");
        using var vera = await product.SignInAsync("vera");
        var id = await FileAsync(pia, "Plain");
        var matter = (
            await vera.PostOk(
                "matters",
                new
                {
                    name = "m",
                    description = "",
                    kind = "litigation",
                    unitId = product.Units["Tarn Lines"],
                }
            )
        ).GetProperty("id").GetInt64();
        var definition = new
        {
            containers = new[] { libraries["Plain"] },
            custodians = Array.Empty<long>(),
            query = (string?)null,
            from = (string?)null,
            to = (string?)null,
        };
        var order = (await vera.PostOk($"matters/{matter}/orders", new { name = "o", definition })).GetProperty(
            "orders"
        )[0];
        var fingerprint = (await vera.PostOk($"matters/{matter}/orders/1/consequences", definition))
            .GetProperty("fingerprint")
            .GetString();
        (
            await vera.Post(
                $"matters/{matter}/orders/1/activation",
                new { fingerprint, why = "w" },
                order.GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        await vera.WaitForJobsAsync();
        (await pia.GetOk($"workspace/files/{id}"))
            .GetProperty("standing")
            .GetString()!
            .ShouldStartWith("Kept for another reason.");
        await ChangeAsync(pia, "PUT", id, "text", new { text = "tidied up" });
        (await SendAsync(pia, "DELETE", id, "", null)).Status.ShouldBe(HttpStatusCode.OK);
        (await pia.Get($"workspace/files/{id}")).Status.ShouldBe(HttpStatusCode.NotFound);
        (await vera.GetOk($"matters/{matter}/orders/1/items"))
            .GetProperty("items")[0]
            .GetProperty("missing")
            .GetBoolean()
            .ShouldBeTrue();
        (await vera.GetOk($"items/{id}/copies")).GetArrayLength().ShouldBe(2);

        // A new file that matches is held the moment it is made.
        var made = await pia.PostOk(
            $"workspace/libraries/{libraries["Plain"]}/files",
            new
            {
                folder = "a/b",
                name = "new.md",
                text = "x",
            }
        );
        made.GetProperty("state").GetString().ShouldBe("held");
    }

    [Fact]
    public async Task Fields_start_clocks_are_searched_and_outlive_an_edit()
    {
        using var pia = await product.SignInAsync("pia");
        var id = await FileAsync(pia, "Plain");
        await ChangeAsync(
            pia,
            "PUT",
            id,
            "fields",
            new { fields = new Dictionary<string, string> { ["Closed"] = "2026-03-14", ["vessel"] = "Merrow" } }
        );
        await ChangeAsync(pia, "PUT", id, "text", new { text = "other words" });
        foreach (
            var query in new[]
            {
                "field.closed = 2026-03-14",
                "field.closed < 2026-04",
                "field.vessel = merrow",
                "field.vessel = m*",
            }
        )
        {
            (await pia.GetOk($"items?cql={Uri.EscapeDataString(query)}"))
                .GetProperty("total")
                .GetInt64()
                .ShouldBe(1, query);
        }

        (
            await SendAsync(
                pia,
                "PUT",
                id,
                "fields",
                new { fields = new Dictionary<string, string> { ["no way!"] = "x" } }
            )
        ).Problem.ShouldBe("field-malformed");
        (
            await ChangeAsync(
                pia,
                "PUT",
                id,
                "fields",
                new { fields = new Dictionary<string, string> { ["vessel"] = "" } }
            )
        )
            .GetProperty("fields")
            .EnumerateObject()
            .Select(f => f.Name)
            .ShouldBe(["closed"]);
    }

    [Fact]
    public async Task Moving_to_another_place_shortens_nothing()
    {
        using var pia = await product.SignInAsync("pia");
        using var ines = await product.SignInAsync("ines");
        await product.BlanketInForceAsync(
            ines,
            "All plain",
            "Island",
            new
            {
                description = "",
                reach = new
                {
                    query = (string?)null,
                    containers = new[] { libraries["Plain"] },
                    except = Array.Empty<long>(),
                },
                from = "created",
                keep = "P9Y",
                destroys = false,
                destroyAfter = (string?)null,
            }
        );
        var id = await FileAsync(pia, "Plain");
        await ChangeAsync(pia, "POST", id, "place", new { libraryId = libraries["#talk"], folder = "" });
        (await ines.GetOk($"items/{id}"))
            .GetProperty("item")
            .GetProperty("tideline")
            .GetProperty("keepUntil")
            .GetString()
            .ShouldBe("2035-01-01");
    }

    [Fact]
    public async Task Posts_of_a_channel_are_items_and_other_units_libraries_are_not_there()
    {
        using var pia = await product.SignInAsync("pia");
        await pia.PostOk($"workspace/libraries/{libraries["#talk"]}/posts", new { text = "ahoy there" });
        (await pia.GetOk($"workspace/libraries/{libraries["#talk"]}/folder"))
            .GetProperty("files")
            .EnumerateArray()
            .Select(f => f.GetProperty("post").GetString()!.Trim())
            .ShouldBe(["first words in #talk", "ahoy there"]);
        (await pia.GetOk("items?cql=ahoy")).GetProperty("items")[0].GetProperty("author").GetString().ShouldBe("pia");
        (await pia.Post($"workspace/libraries/{libraries["Plain"]}/posts", new { text = "x" })).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
        using var edvin = await product.SignInAsync("edvin");
        (await edvin.GetOk("workspace/libraries")).GetArrayLength().ShouldBe(0);
        (await edvin.Get($"workspace/libraries/{libraries["Plain"]}/folder")).Status.ShouldBe(HttpStatusCode.NotFound);
        (await edvin.Get($"workspace/files/{await FileAsync(pia, "Plain")}")).Status.ShouldBe(HttpStatusCode.NotFound);
        (
            await pia.Post($"workspace/libraries/{libraries["Plain"]}/folders", new { folder = "a/../../x" })
        ).Problem.ShouldBe("name-malformed");
        await pia.PostOk($"workspace/libraries/{libraries["Plain"]}/folders", new { folder = "a/b" });
        (await pia.Delete($"workspace/libraries/{libraries["Plain"]}/folders?folder=a")).Problem.ShouldBe(
            "folder-not-empty"
        );
        (await pia.Delete($"workspace/libraries/{libraries["Plain"]}/folders?folder=a%2Fb")).Status.ShouldBe(
            HttpStatusCode.OK
        );
    }

    [Fact]
    public async Task A_disconnected_source_is_neither_scanned_nor_worked_in_and_a_test_says_what_it_finds()
    {
        using var jonas = await product.SignInAsync("jonas");
        using var pia = await product.SignInAsync("pia");
        var test = await jonas.PostOk("sources/1/test", new { });
        (test.GetProperty("good").GetBoolean(), test.GetProperty("found").GetInt32()).ShouldBe((true, 4));
        (
            await jonas.Put(
                "sources/1",
                new { name = "Workspace", connected = false },
                (await jonas.GetOk("sources"))[0].GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await jonas.Post("sources/1/scans", new { })).Problem.ShouldBe("source-disconnected");
        (await pia.GetOk("workspace/libraries")).GetArrayLength().ShouldBe(0);
        Directory.Move(Root, Root + "-away");
        (await jonas.PostOk("sources/1/test", new { })).GetProperty("good").GetBoolean().ShouldBeFalse();
    }

    [Fact]
    public async Task Disposition_takes_a_workspace_file_with_all_its_versions()
    {
        using var pia = await product.SignInAsync("pia");
        using var ines = await product.SignInAsync("ines");
        using var tobias = await product.SignInAsync("tobias");
        var id = await FileAsync(pia, "Kept");
        await ChangeAsync(pia, "PUT", id, "text", new { text = "second" });
        product.Clock.Advance(Duration.FromDays(6 * 366));
        var series = (await ines.GetOk("series/names"))
            .EnumerateArray()
            .Single(s => s.GetProperty("code").GetString() == "KEP-010")
            .GetProperty("id")
            .GetInt64();
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        await Product.SignAsync(ines, batch);
        await Product.SignAsync(tobias, batch);
        await ines.WaitForJobsAsync();
        File.Exists(Path.Combine(Root, "Kept/plan.md")).ShouldBeFalse();
        Directory
            .EnumerateFiles(Path.Combine(product.Data, "safekeeping"), "*", SearchOption.AllDirectories)
            .Select(File.ReadAllText)
            .ShouldNotContain(t => t.Contains("second") || t.Contains("first words in Kept"));
        (await ines.GetOk($"items/{id}")).GetProperty("item").GetProperty("state").GetString().ShouldBe("destroyed");
    }

    private async Task<long> FileAsync(Api who, string library) =>
        (await who.GetOk($"workspace/libraries/{libraries[library]}/folder"))
            .GetProperty("files")[0]
            .GetProperty("id")
            .GetInt64();

    private static async Task<Answer> SendAsync(Api who, string method, long id, string what, object? body) =>
        await who.SendAsync(
            new HttpMethod(method),
            $"workspace/files/{id}{(what.Length == 0 ? "" : $"/{what}")}",
            body,
            (await who.GetOk($"workspace/files/{id}")).GetProperty("revision").GetInt64()
        );

    private static async Task<JsonElement> ChangeAsync(Api who, string method, long id, string what, object? body)
    {
        var answer = await SendAsync(who, method, id, what, body);
        answer.Status.ShouldBe(HttpStatusCode.OK, answer.Text);
        return answer.Body;
    }
}
