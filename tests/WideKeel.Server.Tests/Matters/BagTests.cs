using System.Text;
using Shouldly;
using WideKeel.Sources;

namespace WideKeel.Server.Tests.Matters;

/// <summary>
/// Bags (RFC 8493) whose content breaks off, is cut off or is taken out again: what remains is a valid bag or none.
/// </summary>
public sealed class BagTests : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("widekeel-bag-").FullName;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public void Dispose() => Directory.Delete(folder, recursive: true);

    [Fact]
    public async Task Content_that_breaks_off_leaves_nothing_in_the_bag_which_is_valid_without_it()
    {
        var bag = new Bag(folder);
        var good = await bag.PutAsync("originals/1.txt", new MemoryStream("whole"u8.ToArray()), Stop);
        await Should.ThrowAsync<IOException>(() => bag.PutAsync("originals/2.txt", new BrokenStream(), Stop));
        bag.Close(
            [("originals/1.txt", good)],
            [("Source-Organization", "Tarn Lines")],
            new Dictionary<string, string>()
        );
        (await bag.VerifyAsync(Stop)).ShouldBeNull();
        Directory
            .GetFiles(Path.Combine(folder, "data", "originals"))
            .ShouldBe([Path.Combine(folder, "data", "originals", "1.txt")]);
    }

    [Fact]
    public async Task A_name_of_255_bytes_goes_into_the_bag()
    {
        var name = $"originals/{new string('n', 255)}";
        var bag = new Bag(folder);
        bag.Close(
            [(name, await bag.PutAsync(name, new MemoryStream("x"u8.ToArray()), Stop))],
            [],
            new Dictionary<string, string>()
        );
        (await bag.VerifyAsync(Stop)).ShouldBeNull();
    }

    [Fact]
    public async Task What_a_cut_off_run_had_begun_goes_with_what_is_taken_out()
    {
        var bag = new Bag(folder);
        // Nothing was ever put in: there is nothing to take out, and that is no error.
        bag.Remove("originals/1.txt");
        await bag.PutAsync("originals/1.txt", new MemoryStream("whole"u8.ToArray()), Stop);
        await File.WriteAllTextAsync(
            Partial.Of(Path.Combine(folder, "data", "originals", "1.txt")),
            "who",
            Encoding.UTF8,
            Stop
        );
        bag.Close([], [], new Dictionary<string, string>());
        (await bag.VerifyAsync(Stop)).ShouldNotBeNull().ShouldContain("is in no manifest");
        bag.Remove("originals/1.txt");
        (await bag.VerifyAsync(Stop)).ShouldBeNull();
    }

    /// <summary>Gives a little, then fails as a bad disk does.</summary>
    private sealed class BrokenStream : MemoryStream
    {
        private int reads;

        public override ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default) =>
            reads++ == 0 ? new(Math.Min(7, buffer.Length)) : throw new IOException("Input/output error");
    }
}
