using System.Diagnostics;
using WideKeel.Sources;

namespace WideKeel.Server.Tests.Content;

/// <summary>The lock beside a mailbox: a mail program's is respected, one that we left behind is taken away.</summary>
public sealed class MailboxLockTests : IDisposable
{
    /// <summary>No process has it: the kernel gives out ids up to 4,194,304 (Linux, <c>pid_max</c>).</summary>
    private const int NoProcess = 99_999_999;

    private readonly string folder = Directory.CreateTempSubdirectory("widekeel-test-").FullName;

    public MailboxLockTests() =>
        File.WriteAllText(
            Path.Combine(folder, "box.mbox"),
            "From x@y Mon Jun  1 10:00:00 2026\nFrom: a@post.example\nSubject: s\n\nwords\n\n"
        );

    public void Dispose() => Directory.Delete(folder, recursive: true);

    private string Lock => Path.Combine(folder, "box.mbox.lock");

    /// <summary>Why the only message could not be deleted; null where it is gone.</summary>
    private string? Delete()
    {
        var store = new MailStore(folder);
        return store.Delete([new(store.Walk().OfType<Found.File>().Single().Path)]).Values.SingleOrDefault();
    }

    private static string MarkOf(int process, string? machine = null) =>
        $"wide-keel {machine ?? Environment.MachineName} {process} another-run";

    [Fact]
    public void A_lock_of_a_process_that_is_gone_is_taken_away()
    {
        File.WriteAllText(Lock, MarkOf(NoProcess));
        Delete().ShouldBeNull();
    }

    [Fact]
    public void A_lock_of_a_former_run_with_the_same_process_id_is_taken_away()
    {
        File.WriteAllText(Lock, MarkOf(Environment.ProcessId));
        Delete().ShouldBeNull();
    }

    [Fact]
    public void A_lock_is_gone_once_the_mailbox_is_written()
    {
        Delete();
        Directory.GetFiles(folder).Select(Path.GetFileName).ShouldBe(["box.mbox"]);
    }

    [Fact]
    public void An_empty_lock_is_a_mail_programs()
    {
        File.WriteAllText(Lock, "");
        Delete().ShouldBe("The mailbox is locked by a mail program.");
    }

    [Fact]
    public void A_lock_of_a_running_process_stays()
    {
        using var running = Process.Start("sleep", "60");
        File.WriteAllText(Lock, MarkOf(running.Id));
        Delete().ShouldBe("The mailbox is locked by a mail program.");
        running.Kill();
    }

    [Fact]
    public void A_lock_from_another_machine_stays()
    {
        File.WriteAllText(Lock, MarkOf(NoProcess, "elsewhere"));
        Delete().ShouldBe("The mailbox is locked by a mail program.");
    }

    [Fact]
    public void A_pipe_in_the_place_of_the_lock_holds_nobody_up()
    {
        using (var made = Process.Start("mkfifo", [Lock]))
        {
            made.WaitForExit();
        }

        Delete().ShouldBe("The mailbox is locked by a mail program.");
    }

    [Fact]
    public void A_link_in_the_place_of_the_lock_is_not_followed()
    {
        var outside = Path.Combine(folder, "outside.txt");
        File.WriteAllText(outside, MarkOf(NoProcess));
        File.CreateSymbolicLink(Lock, outside);
        Delete().ShouldBe("The mailbox is locked by a mail program.");
    }
}
