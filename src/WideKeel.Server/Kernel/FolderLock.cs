using WideKeel.Sources;

namespace WideKeel.Server.Kernel;

/// <summary>
/// One process works in a data folder: two would each sign heads over entries that the other does not know. The
/// operating system takes the lock away when its process ends, however it ends.
/// </summary>
public sealed class FolderLock : IDisposable
{
    /// <summary>The file that is locked; there is nothing in it.</summary>
    public const string Name = "in-use";

    private FileStream? held;
    private IDisposable? guard;

    /// <exception cref="NotOursException">Another process has the folder.</exception>
    public void Take(string folder)
    {
        try
        {
            held ??= new FileStream(
                Path.Combine(folder, Name),
                FileMode.OpenOrCreate,
                FileAccess.ReadWrite,
                FileShare.None
            );
        }
        catch (IOException)
        {
            throw new NotOursException(
                $"Another process works in {folder}. Two at once would spoil the ledger; nothing was started. "
                    + "End the other one first, or name another folder with --data."
            );
        }
    }

    /// <summary>From here on this process opens the database through SQLite alone.</summary>
    public void Guard(string databaseFile) => guard ??= Beneath.GuardDatabase(databaseFile);

    public void Dispose()
    {
        guard?.Dispose();
        held?.Dispose();
    }
}
