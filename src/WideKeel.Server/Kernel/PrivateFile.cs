using WideKeel.Sources;

namespace WideKeel.Server.Kernel;

/// <summary>Files that only the service's own account may read.</summary>
internal static class PrivateFile
{
    private const UnixFileMode OwnerOnly = UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute;

    /// <summary>Writes a file that comes to its name whole, or not at all, and is on disk when this returns.</summary>
    /// <exception cref="IOException">The disk refuses, or the name is taken and may not be.</exception>
    public static void Write(string file, ReadOnlySpan<byte> content, bool overwrite)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(file)!, OwnerOnly);
        var partial = $"{file}.{Guid.NewGuid():N}";
        try
        {
            using (
                var stream = new FileStream(
                    partial,
                    new FileStreamOptions
                    {
                        Mode = FileMode.CreateNew,
                        Access = FileAccess.Write,
                        UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
                    }
                )
            )
            {
                stream.Write(content);
                stream.Flush(flushToDisk: true);
            }

            File.Move(partial, file, overwrite);
            Beneath.FlushFolder(Path.GetDirectoryName(file)!);
        }
        finally
        {
            File.Delete(partial);
        }
    }
}
