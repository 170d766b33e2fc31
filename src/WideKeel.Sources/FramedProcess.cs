using System.Diagnostics;
using System.Globalization;

namespace WideKeel.Sources;

/// <summary>
/// A process of the product's own program that answers frames: four bytes of length, then the body. What such a process
/// reads may end it or take its memory; then only that process ends.
/// </summary>
public sealed class FramedProcess : IDisposable
{
    private readonly Process process;

    /// <param name="program">The product's program.</param>
    /// <param name="maxManagedBytes">Of managed memory.</param>
    public FramedProcess(string program, IEnumerable<string> arguments, long maxManagedBytes)
    {
        var start = new ProcessStartInfo(program, arguments)
        {
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        start.Environment["DOTNET_GCHeapHardLimit"] = maxManagedBytes.ToString("x", CultureInfo.InvariantCulture);
        start.Environment["DOTNET_gcServer"] = "0";
        start.Environment["DOTNET_EnableDiagnostics"] = "0";
        process = Process.Start(start)!;
        // A stack that overflows is reported at length; nobody reads it, and a full pipe would stop the process.
        process.ErrorDataReceived += (_, _) => { };
        process.BeginErrorReadLine();
    }

    /// <summary>The product's program, which lies beside this library.</summary>
    public static string OwnProgram { get; } = Path.Combine(AppContext.BaseDirectory, "widekeel");

    public bool HasEnded => process.HasExited;

    public Stream Input => process.StandardInput.BaseStream;

    public Stream Output => process.StandardOutput.BaseStream;

    public static async Task WriteFrameAsync(Stream stream, ReadOnlyMemory<byte> body, CancellationToken cancel)
    {
        await stream.WriteAsync(BitConverter.GetBytes(body.Length), cancel);
        await stream.WriteAsync(body, cancel);
    }

    /// <summary>Null where the stream ends before a frame begins.</summary>
    /// <exception cref="EndOfStreamException">The stream ends within the frame.</exception>
    public static async Task<byte[]?> ReadFrameAsync(Stream stream, CancellationToken cancel)
    {
        var length = new byte[sizeof(int)];
        if (await stream.ReadAtLeastAsync(length, length.Length, throwOnEndOfStream: false, cancel) < length.Length)
        {
            return null;
        }

        var body = new byte[BitConverter.ToInt32(length)];
        await stream.ReadExactlyAsync(body, cancel);
        return body;
    }

    public void Dispose()
    {
        try
        {
            process.Kill();
        }
        catch (InvalidOperationException)
        {
            // It has ended by itself.
        }

        process.Dispose();
    }
}
