using NodaTime;

namespace WideKeel.Store.Activity;

/// <summary>The sealed files of an archive, whichever way they lie.</summary>
public interface ISegmentFiles
{
    bool Has(string channel, LocalDate day, int number);

    /// <summary>A segment's file in the open, until the answer is disposed of; null where it is not there.</summary>
    /// <exception cref="Core.AtRest.UnreadableAtRestException">It is encrypted, and was altered or is of other keys.</exception>
    OpenSegment? Open(string channel, LocalDate day, int number);

    /// <summary>All files of segments by their path within the archive, without the ending of encrypted ones.</summary>
    IEnumerable<(string Path, bool IsEncrypted)> All();
}

/// <summary>A segment's file that can be read; a decrypted one goes when this is disposed of.</summary>
public sealed class OpenSegment(string path, bool isCopy) : IDisposable
{
    public string Path => path;

    public void Dispose()
    {
        if (isCopy)
        {
            File.Delete(path);
        }
    }
}
