using System.Collections.Concurrent;
using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;

namespace WideKeel.Sources;

/// <summary>
/// Files beneath a root, opened and removed by handles: each folder on the way is opened within the one before and is
/// never a link, so that nobody who changes the tree meanwhile can lead the product out of it. The base library works on
/// paths only, and a path is followed anew by each call; hence the system's own functions (openat, renameat2, unlinkat,
/// statx; POSIX.1-2017 and Linux).
/// </summary>
public sealed partial class Beneath : IDisposable
{
    private readonly SafeFileHandle folder;
    private readonly string name;

    private Beneath(SafeFileHandle folder, string name) => (this.folder, this.name) = (folder, name);

    /// <summary>
    /// The place of a file; null where a folder on the way is not there. Throws <see cref="IOException"/> where one is
    /// a link or no folder.
    /// </summary>
    /// <param name="relative">Beneath the root, with forward slashes, checked by <see cref="DirectoryShare.Resolve"/>.</param>
    public static Beneath? Find(string root, string relative) => Find(root, relative, make: false);

    /// <summary>As <see cref="Find(string, string)"/>, with the folders on the way made where they are not there.</summary>
    public static Beneath Make(string root, string relative) =>
        Find(root, relative, make: true) ?? throw new IOException("The root of the source is not there.");

    /// <summary>
    /// Puts on disk which names a folder holds: what was renamed into it, or removed, stays so when the power fails.
    /// </summary>
    /// <exception cref="IOException">The folder cannot be opened, or the disk refuses.</exception>
    public static void FlushFolder(string folder)
    {
        using var handle = OpenAt(AtCurrent, folder, Folder | CloseOnExec);
        if (handle.IsInvalid)
        {
            throw Failure(Marshal.GetLastPInvokeError(), folder);
        }

        RandomAccess.FlushToDisk(handle);
    }

    private static Beneath? Find(string root, string relative, bool make)
    {
        var parts = relative.Split('/');
        var handle = OpenAt(AtCurrent, root, Path | Folder | CloseOnExec);
        foreach (var part in parts[..^1].Prepend(null))
        {
            if (part is not null && !handle.IsInvalid)
            {
                using var above = handle;
                if (make)
                {
                    Directory.CreateDirectory(Within(above, part));
                }

                handle = OpenAt(above, part, Path | Folder | NoFollow | CloseOnExec);
            }

            if (handle.IsInvalid)
            {
                var error = Marshal.GetLastPInvokeError();
                handle.Dispose();
                return error == NotThere ? null : throw Failure(error, relative);
            }
        }

        return new(handle, parts[^1]);
    }

    /// <summary>
    /// A path of something in this folder that leads by its handle, whatever becomes of the folder's own path; until this is
    /// disposed. The last name may be that of a link: it is for making, replacing and removing, which never follow one.
    /// </summary>
    public string Within(string own) => Within(folder, own);

    private static string Within(SafeFileHandle folder, string own) =>
        $"/proc/self/fd/{folder.DangerousGetHandle()}/{own}";

    /// <summary>The file for reading; null when it is not there, or is no regular file.</summary>
    public SafeFileHandle? Open() => Open(name);

    private SafeFileHandle? Open(string own)
    {
        if (IsOwnDatabase(own))
        {
            throw new UnauthorizedAccessException($"“{own}” is the product's own database under another name.");
        }

        var handle = OpenAt(folder, own, NoFollow | NonBlocking | CloseOnExec);
        if (!handle.IsInvalid)
        {
            if (!IsRegular(handle))
            {
                handle.Dispose();
                return null;
            }

            // As the base library does: what another program locked for itself alone is not read half-written.
            if (Lock(handle, SharedLock | Impatient) != 0 && Marshal.GetLastPInvokeError() == WouldWait)
            {
                handle.Dispose();
                throw new IOException("Another program has locked it for itself alone.");
            }

            return handle;
        }

        var error = Marshal.GetLastPInvokeError();
        handle.Dispose();
        return error is NotThere or IsLink or NoSuchDevice ? null : throw Failure(error, own);
    }

    /// <summary>
    /// Gives the file the name under which it is looked at and removed, so that nobody puts another in its place
    /// meanwhile. False when neither it nor one that a former try left under that name is there.
    /// </summary>
    /// <param name="going">A name in the same folder.</param>
    public bool SetAside(string going)
    {
        var error = Rename(name, going);
        return error switch
        {
            0 => true,
            // Left by a try that was cut off; it is dealt with first.
            Exists => true,
            NotThere => IsThere(going),
            _ => throw Failure(error, name),
        };
    }

    /// <summary>
    /// The files that SQLite holds locks on in this process. A lock of POSIX ends when its process closes any handle of the
    /// file (fcntl; https://sqlite.org/howtocorrupt.html, 2.2): another process would then take the database for one that
    /// nobody uses, and cut off the index that this one has mapped. So they are opened by SQLite alone, also where a link
    /// gives them another name.
    /// </summary>
    /// <returns>Ends the guard.</returns>
    public static IDisposable GuardDatabase(string databaseFile)
    {
        string[] files = [databaseFile, $"{databaseFile}-wal", $"{databaseFile}-shm", $"{databaseFile}-journal"];
        OwnDatabases.TryAdd(databaseFile, files);
        return new Guard(databaseFile);
    }

    private sealed class Guard(string databaseFile) : IDisposable
    {
        public void Dispose() => OwnDatabases.TryRemove(databaseFile, out _);
    }

    private static readonly ConcurrentDictionary<string, string[]> OwnDatabases = new();

    /// <summary>Asked of a handle that opens nothing (O_PATH): closing it ends no lock.</summary>
    private bool IsOwnDatabase(string own)
    {
        if (OwnDatabases.IsEmpty)
        {
            return false;
        }

        Span<byte> status = stackalloc byte[256];
        using var looked = OpenAt(folder, own, Path | NoFollow | CloseOnExec);
        if (looked.IsInvalid || StatX(looked, "", EmptyPath, TypeWanted | InodeWanted, status) != 0)
        {
            return false;
        }

        var identity = IdentityIn(status);
        foreach (var file in OwnDatabases.Values.SelectMany(f => f))
        {
            if (StatX(AtCurrent, file, 0, InodeWanted, status) == 0 && IdentityIn(status) == identity)
            {
                return true;
            }
        }

        return false;
    }

    private static (uint Major, uint Minor, ulong Inode) IdentityIn(ReadOnlySpan<byte> status) =>
        (
            MemoryMarshal.Read<uint>(status[MajorAt..]),
            MemoryMarshal.Read<uint>(status[(MajorAt + 4)..]),
            MemoryMarshal.Read<ulong>(status[InodeAt..])
        );

    public SafeFileHandle? OpenAside(string going) => Open(going);

    /// <summary>Gives the file its name back, or one beside it where something else lies there by now.</summary>
    public void PutBack(string going)
    {
        if (Rename(going, name) != 0)
        {
            _ = Rename(going, $"{name} (restored)");
        }
    }

    /// <summary>Replaces nothing. Returns 0, or the system's error.</summary>
    private int Rename(string from, string to)
    {
        if (RenameAt2(folder, from, folder, to, NoReplace) == 0)
        {
            return 0;
        }

        var error = Marshal.GetLastPInvokeError();
        // Some file systems of networks cannot be asked to replace nothing; there it is looked for first.
        return error is not (NotSupported or NoSuchCall) ? error
            : IsThere(to) ? Exists
            : RenameAt(folder, from, folder, to) == 0 ? 0
            : Marshal.GetLastPInvokeError();
    }

    /// <summary>Removes what was set aside.</summary>
    public void Remove(string going)
    {
        if (UnlinkAt(folder, going, 0) != 0 && Marshal.GetLastPInvokeError() is var error && error != NotThere)
        {
            throw Failure(error, name);
        }
    }

    public void Dispose() => folder.Dispose();

    /// <summary>
    /// What a folder and each folder above it is to the file system, itself first: device and inode, whatever path leads
    /// there. Empty where it cannot be opened.
    /// </summary>
    public static IReadOnlyList<(uint Major, uint Minor, ulong Inode)> Identities(string path)
    {
        List<(uint, uint, ulong)> chain = [];
        Span<byte> status = stackalloc byte[256];
        var handle = OpenAt(AtCurrent, path, Path | Folder | CloseOnExec);
        while (!handle.IsInvalid && StatX(handle, "", EmptyPath, TypeWanted | InodeWanted, status) == 0)
        {
            var own = IdentityIn(status);
            // The folder above the topmost is itself.
            if (chain.Count > 0 && chain[^1] == own)
            {
                break;
            }

            chain.Add(own);
            using var below = handle;
            handle = OpenAt(below, "..", Path | Folder | CloseOnExec);
        }

        handle.Dispose();
        return chain;
    }

    private bool IsThere(string own)
    {
        using var handle = OpenAt(folder, own, Path | NoFollow | CloseOnExec);
        return !handle.IsInvalid;
    }

    private static bool IsRegular(SafeFileHandle handle)
    {
        Span<byte> status = stackalloc byte[256];
        return StatX(handle, "", EmptyPath, TypeWanted, status) == 0
            && (MemoryMarshal.Read<ushort>(status[ModeAt..]) & TypeBits) == RegularFile;
    }

    private static Exception Failure(int error, string what) =>
        error is NoPermission or NotPermitted
            ? new UnauthorizedAccessException($"{what}: {Marshal.GetPInvokeErrorMessage(error)}")
            : new IOException(
                error is IsLink or NoFolder
                    ? $"“{what}” leads through a link or through what is no folder, and links are never followed."
                    : Marshal.GetPInvokeErrorMessage(error)
            );

    // Values of Linux, the same on x86-64 and arm64 but where two are given.
    private const int AtCurrent = -100;
    private const int Path = 0x200000;
    private const int NonBlocking = 0x800;
    private const int CloseOnExec = 0x80000;
    private static readonly int Folder =
        RuntimeInformation.ProcessArchitecture == Architecture.Arm64 ? 0x4000 : 0x10000;
    private static readonly int NoFollow =
        RuntimeInformation.ProcessArchitecture == Architecture.Arm64 ? 0x8000 : 0x20000;

    private const uint NoReplace = 1;
    private const int EmptyPath = 0x1000;
    private const uint TypeWanted = 1;
    private const uint InodeWanted = 0x100;
    private const int ModeAt = 28;
    private const int InodeAt = 32;
    private const int MajorAt = 136;
    private const int TypeBits = 0xF000;
    private const int RegularFile = 0x8000;
    private const int SharedLock = 1;
    private const int Impatient = 4;
    private const int WouldWait = 11;
    private const int NotPermitted = 1;
    private const int NotThere = 2;
    private const int NoSuchDevice = 6;
    private const int NoPermission = 13;
    private const int Exists = 17;
    private const int NoFolder = 20;
    private const int NotSupported = 22;
    private const int NoSuchCall = 38;
    private const int IsLink = 40;

    private static SafeFileHandle OpenAt(int folder, string path, int flags) =>
        new(OpenAtRaw(folder, path, flags), true);

    private static SafeFileHandle OpenAt(SafeFileHandle folder, string path, int flags) =>
        OpenAtWithin(folder, path, flags);

    [LibraryImport("libc", EntryPoint = "openat", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial nint OpenAtRaw(int folder, string path, int flags);

    [LibraryImport("libc", EntryPoint = "openat", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial SafeFileHandle OpenAtWithin(SafeFileHandle folder, string path, int flags);

    [LibraryImport("libc", EntryPoint = "renameat2", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int RenameAt2(
        SafeFileHandle from,
        string path,
        SafeFileHandle to,
        string target,
        uint flags
    );

    [LibraryImport("libc", EntryPoint = "renameat", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int RenameAt(SafeFileHandle from, string path, SafeFileHandle to, string target);

    [LibraryImport("libc", EntryPoint = "unlinkat", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int UnlinkAt(SafeFileHandle folder, string path, int flags);

    [LibraryImport("libc", EntryPoint = "flock", SetLastError = true)]
    private static partial int Lock(SafeFileHandle file, int how);

    [LibraryImport("libc", EntryPoint = "statx", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int StatX(SafeFileHandle folder, string path, int flags, uint mask, Span<byte> status);

    [LibraryImport("libc", EntryPoint = "statx", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int StatX(int folder, string path, int flags, uint mask, Span<byte> status);
}
