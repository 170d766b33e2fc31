using WideKeel.Store;

namespace WideKeel.Server.People;

/// <summary>
/// What a part keeps by somebody's mail address follows when the directory gives them another one; else what they were
/// asked, and what they answered, would be nobody's.
/// </summary>
public interface IAddressFollower : IContribution
{
    /// <summary>In the change that gives the new address.</summary>
    Task FollowAsync(WideKeelDb db, string from, string to, CancellationToken cancel);
}
