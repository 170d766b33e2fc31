using System.Runtime.InteropServices;

namespace WideKeel.Sources;

/// <summary>What the kernel holds this process to.</summary>
public static partial class ProcessLimits
{
    private const int Data = 2;

    /// <summary>
    /// Refuses memory beyond a limit (setrlimit with RLIMIT_DATA, which counts all private written memory as of Linux 4.7),
    /// and lets the kernel end this process before others where it is short of memory itself.
    /// </summary>
    /// <param name="bytes">At most.</param>
    public static void LimitMemory(ulong bytes)
    {
        _ = SetLimit(Data, [bytes, bytes]);
        try
        {
            File.WriteAllText("/proc/self/oom_score_adj", "1000");
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // The limit above holds all the same.
        }
    }

    /// <summary>Files and folders that this process makes from here on are its own account's alone: 0600 and 0700.</summary>
    public static void MakeFilesPrivate() => _ = SetMask(0b000_111_111);

    [LibraryImport("libc", EntryPoint = "setrlimit")]
    private static partial int SetLimit(int resource, ulong[] softAndHard);

    [LibraryImport("libc", EntryPoint = "umask")]
    private static partial uint SetMask(uint mask);
}
