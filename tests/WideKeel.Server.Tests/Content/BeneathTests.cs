using WideKeel.Sources;

namespace WideKeel.Server.Tests.Content;

/// <summary>
/// Files by handles: whatever stands on the way at the moment of opening, nothing outside the root is reached, and what
/// was looked at is what goes.
/// </summary>
public sealed class BeneathTests : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("widekeel-beneath-").FullName;
    private readonly string outside = Directory.CreateTempSubdirectory("widekeel-outside-").FullName;

    public BeneathTests()
    {
        Directory.CreateDirectory(Path.Combine(folder, "inner"));
        Write(Path.Combine(folder, "inner", "memo.txt"), "due");
        Write(Path.Combine(outside, "memo.txt"), "precious");
        Directory.CreateSymbolicLink(Path.Combine(folder, "way-out"), outside);
    }

    public void Dispose()
    {
        Directory.Delete(folder, recursive: true);
        Directory.Delete(outside, recursive: true);
    }

    private static void Write(string file, string text) => File.WriteAllText(file, text);

    private string Inner(string name) => Path.Combine(folder, "inner", name);

    private Beneath Memo() => Beneath.Find(folder, "inner/memo.txt").ShouldNotBeNull();

    [Fact]
    public void A_folder_that_became_a_link_is_not_gone_through() =>
        Should
            .Throw<IOException>(() => Beneath.Find(folder, "way-out/memo.txt"))
            .Message.ShouldContain("never followed");

    [Fact]
    public void A_folder_that_became_a_link_after_it_was_opened_is_still_the_folder()
    {
        using var memo = Memo();
        Directory.Move(Path.Combine(folder, "inner"), Path.Combine(folder, "away"));
        Directory.CreateSymbolicLink(Path.Combine(folder, "inner"), outside);
        memo.SetAside("going").ShouldBeTrue();
        memo.Remove("going");
        File.Exists(Path.Combine(outside, "memo.txt")).ShouldBeTrue();
    }

    [Fact]
    public void A_file_that_became_a_link_is_not_read()
    {
        File.Delete(Inner("memo.txt"));
        File.CreateSymbolicLink(Inner("memo.txt"), Path.Combine(outside, "memo.txt"));
        using var memo = Memo();
        memo.Open().ShouldBeNull();
    }

    [Fact]
    public void A_folder_that_is_not_there_has_no_place() => Beneath.Find(folder, "never/memo.txt").ShouldBeNull();

    [Fact]
    public void What_is_no_folder_on_the_way_is_an_error() =>
        Should.Throw<IOException>(() => Beneath.Find(folder, "inner/memo.txt/more.txt"));

    [Fact]
    public void A_folder_is_not_read_as_a_file()
    {
        using var inner = Beneath.Find(folder, "inner").ShouldNotBeNull();
        inner.Open().ShouldBeNull();
    }

    [Fact]
    public void A_file_that_another_program_locked_for_itself_is_not_read()
    {
        using var held = new FileStream(Inner("memo.txt"), FileMode.Open, FileAccess.ReadWrite, FileShare.None);
        using var memo = Memo();
        Should.Throw<IOException>(() => memo.Open()).Message.ShouldContain("locked");
    }

    [Fact]
    public void What_is_set_aside_is_no_longer_found_by_its_name()
    {
        using var memo = Memo();
        memo.SetAside("going");
        File.Exists(Inner("memo.txt")).ShouldBeFalse();
    }

    [Fact]
    public void What_is_put_back_has_its_name_again()
    {
        using var memo = Memo();
        memo.SetAside("going");
        memo.PutBack("going");
        File.ReadAllText(Inner("memo.txt")).ShouldBe("due");
    }

    [Fact]
    public void What_is_put_back_replaces_nothing_that_came_meanwhile()
    {
        using var memo = Memo();
        memo.SetAside("going");
        Write(Inner("memo.txt"), "new");
        memo.PutBack("going");
        new[] { File.ReadAllText(Inner("memo.txt")), File.ReadAllText(Inner("memo.txt (restored)")) }.ShouldBe([
            "new",
            "due",
        ]);
    }

    [Fact]
    public void What_a_try_that_was_cut_off_set_aside_comes_before_what_has_the_name_now()
    {
        Write(Inner("going"), "from before");
        using var memo = Memo();
        memo.SetAside("going").ShouldBeTrue();
        using var aside = new StreamReader(new FileStream(memo.OpenAside("going").ShouldNotBeNull(), FileAccess.Read));
        aside.ReadToEnd().ShouldBe("from before");
    }

    [Fact]
    public void Where_neither_the_file_nor_a_former_try_is_nothing_is_set_aside()
    {
        File.Delete(Inner("memo.txt"));
        using var memo = Memo();
        memo.SetAside("going").ShouldBeFalse();
    }

    [Fact]
    public void The_same_folder_is_known_by_any_path() =>
        Beneath
            .Identities(Path.Combine(folder, "way-out"))[0]
            .ShouldBe(Beneath.Identities($"/proc/self/root{outside}")[0]);

    [Fact]
    public void A_folder_is_known_to_lie_in_those_above_it() =>
        Beneath.Identities(Path.Combine(folder, "inner"))[1].ShouldBe(Beneath.Identities(folder)[0]);

    [Fact]
    public void What_is_not_there_is_nothing() => Beneath.Identities(Path.Combine(folder, "never")).ShouldBeEmpty();

    [Fact]
    public void The_data_folder_is_known_by_whatever_path_leads_to_it() =>
        DirectoryShare
            .CheckPlace($"/proc/self/root{folder}", Places(folder), [])
            .ShouldNotBeNull()
            .Code.ShouldBe("root-is-our-own");

    [Fact]
    public void A_folder_within_another_root_is_known_behind_a_link()
    {
        var inner = Directory.CreateDirectory(Path.Combine(folder, "share", "inner")).FullName;
        var link = Path.Combine(folder, "link");
        Directory.CreateSymbolicLink(link, inner);
        DirectoryShare
            .CheckPlace(link, Places("/nowhere/at/all"), [Path.Combine(folder, "share")])
            .ShouldNotBeNull()
            .Code.ShouldBe("share-taken");
    }

    [Theory]
    [InlineData("/proc/self")]
    [InlineData("/sys")]
    [InlineData("/dev")]
    public void What_is_the_systems_is_no_share(string root) =>
        DirectoryShare.CheckPlace(root, Places(folder), []).ShouldNotBeNull().Code.ShouldBe("root-is-the-systems");

    [Fact]
    public void Two_folders_side_by_side_are_apart()
    {
        var one = Directory.CreateDirectory(Path.Combine(folder, "one")).FullName;
        var two = Directory.CreateDirectory(Path.Combine(folder, "two")).FullName;
        DirectoryShare.CheckPlace(one, Places(two), []).ShouldBeNull();
    }

    [Fact]
    public void Where_roots_are_confined_another_folder_is_refused() =>
        DirectoryShare.CheckPlace(outside, new([], [folder]), []).ShouldNotBeNull().Code.ShouldBe("root-elsewhere");

    [Fact]
    public void A_link_does_not_lead_out_of_where_roots_are_confined() =>
        DirectoryShare
            .CheckPlace(Path.Combine(folder, "way-out"), new([], [folder]), [])
            .ShouldNotBeNull()
            .Code.ShouldBe("root-elsewhere");

    [Fact]
    public void Where_roots_are_confined_a_folder_within_is_taken() =>
        DirectoryShare.CheckPlace(Path.Combine(folder, "inner"), new([], [outside, folder]), []).ShouldBeNull();

    [Fact]
    public void What_is_written_within_a_folder_stays_in_it_when_a_link_takes_its_path()
    {
        using var place = Beneath.Make(folder, "inner/new.txt");
        Directory.Move(Path.Combine(folder, "inner"), Path.Combine(folder, "moved"));
        Directory.CreateSymbolicLink(Path.Combine(folder, "inner"), outside);
        File.WriteAllText(place.Within("new.txt"), "new");
        File.Exists(Path.Combine(folder, "moved", "new.txt")).ShouldBeTrue();
    }

    [Fact]
    public void Folders_on_the_way_are_made()
    {
        using var place = Beneath.Make(folder, "one/two/memo.txt");
        Directory.Exists(Path.Combine(folder, "one", "two")).ShouldBeTrue();
    }

    [Fact]
    public void No_folder_is_made_through_a_link()
    {
        Should.Throw<IOException>(() => Beneath.Make(folder, "way-out/two/memo.txt"));
        Directory.Exists(Path.Combine(outside, "two")).ShouldBeFalse();
    }

    [Fact]
    public async Task Nothing_is_put_back_through_a_link()
    {
        await Should.ThrowAsync<IOException>(() =>
            new DirectoryShare(folder).PlaceAsync(
                "way-out/back.txt",
                () => new MemoryStream([1]),
                TestContext.Current.CancellationToken
            )
        );
        File.Exists(Path.Combine(outside, "back.txt")).ShouldBeFalse();
    }

    [Fact]
    public void A_mailbox_that_a_link_leads_to_is_not_read()
    {
        Write(Path.Combine(outside, "post.mbox"), "From a@b.example Mon Jun 15 08:00:00 2026\n\nsecret\n");
        File.CreateSymbolicLink(Path.Combine(folder, "post.mbox"), Path.Combine(outside, "post.mbox"));
        new MailStore(folder).Walk().ShouldAllBe(found => found is Found.Unreadable);
    }

    [Fact]
    public void Nothing_of_a_mailbox_behind_a_link_is_removed()
    {
        var box = Path.Combine(outside, "post.mbox");
        Write(box, "From a@b.example Mon Jun 15 08:00:00 2026\n\nsecret\n");
        var message = new MailStore(outside).Walk().Single().Path;
        new MailStore(folder).Delete([new($"way-out/{message}")]).Count.ShouldBe(1);
        File.ReadAllText(box).ShouldContain("secret");
    }

    private static RootPlaces Places(string ours) => new([ours], []);
}
