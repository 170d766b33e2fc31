namespace WideKeel.Server.Kernel;

/// <summary>Contents of a part that lie encrypted where there are keys.</summary>
public interface IEncryptable : IContribution
{
    /// <summary>What they are, as a title.</summary>
    string Name { get; }

    (long InTheOpen, long Encrypted) Count();

    /// <summary>Encrypts what lies in the open still.</summary>
    /// <param name="done">Is called after each file.</param>
    Task EncryptAsync(Func<Task> done, CancellationToken cancel);
}
