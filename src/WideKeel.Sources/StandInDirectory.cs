using System.Text.Json;
using System.Text.Json.Serialization;
using WideKeel.Core.People;

namespace WideKeel.Sources;

/// <summary>The directory did not carry a change out.</summary>
public sealed class DirectoryFailure(string message) : IOException(message);

/// <summary>
/// A directory in a file: it stands in for an organisation's own, holds people, groups, resources, grants, links and
/// consents, and carries out changes. Each is written whole or not at all. It can be made to fail.
/// </summary>
public sealed class StandInDirectory(string file)
{
    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private readonly Lock turn = new();
    private int failures;

    /// <summary>The next so many changes fail.</summary>
    public void FailNext(int times) => Interlocked.Exchange(ref failures, times);

    public bool Exists => File.Exists(file);

    /// <summary>When it was changed last; it is the same as long as this is.</summary>
    public DateTime ChangedAt => File.GetLastWriteTimeUtc(file);

    public DirectoryState Read()
    {
        if (!File.Exists(file))
        {
            return DirectoryState.Empty;
        }

        try
        {
            return JsonSerializer.Deserialize<DirectoryState>(File.ReadAllText(file), Options) ?? DirectoryState.Empty;
        }
        catch (JsonException e)
        {
            throw new DirectoryFailure($"The directory’s file cannot be read: {e.Message}");
        }
    }

    public void Write(DirectoryState state)
    {
        lock (turn)
        {
            Directory.CreateDirectory(Path.GetDirectoryName(file)!);
            var half = file + ".new";
            File.WriteAllText(half, JsonSerializer.Serialize(state, Options));
            File.Move(half, file, overwrite: true);
        }
    }

    /// <summary>Carries out one change; what is so already stays so.</summary>
    /// <exception cref="DirectoryFailure">It does not answer, or does not know whom or what the change names.</exception>
    public void Apply(DirectoryChange change)
    {
        lock (turn)
        {
            if (failures > 0)
            {
                failures--;
                throw new DirectoryFailure("The directory does not answer.");
            }

            Write(Changed(Read(), change));
        }
    }

    /// <summary>Whether the directory shows what a change asked for.</summary>
    public bool Shows(DirectoryChange change) => change.IsShownBy(Read());

    // Long because each kind of change is one arm.
    private static DirectoryState Changed(DirectoryState state, DirectoryChange change)
    {
        return change.Verb switch
        {
            DirectoryVerb.Suspend or DirectoryVerb.Restore => state with
            {
                People = With(
                    state.People,
                    p => p.Id == change.Who,
                    p => p with { Suspended = change.Verb == DirectoryVerb.Suspend },
                    change.Who
                ),
            },
            DirectoryVerb.SignOut => state,
            DirectoryVerb.AddMember => Group(g =>
                g.Members.Contains(change.Who) ? g : g with { Members = [.. g.Members, change.Who] }
            ),
            DirectoryVerb.RemoveMember => Group(g => g with { Members = [.. g.Members.Where(m => m != change.Who)] }),
            DirectoryVerb.AddGrant => state with
            {
                Grants = [.. state.Grants.Where(g => g != change.Grant), change.Grant],
            },
            DirectoryVerb.RemoveGrant => state with { Grants = [.. state.Grants.Where(g => g != change.Grant)] },
            DirectoryVerb.AddLink => Resource(r =>
                r with
                {
                    // Asked twice, it is one link.
                    Links =
                    [
                        .. r.Links.Where(l => l.To != change.Who || l.Role != (change.Role ?? "reader")),
                        new OutsideLink(change.Who, change.Role ?? "reader", ""),
                    ],
                }
            ),
            DirectoryVerb.RemoveLink => Resource(r =>
                r with
                {
                    Links = [.. r.Links.Where(l => l.To != change.Who || l.Role != change.Role)],
                }
            ),
            DirectoryVerb.AddConsent => Application(a =>
                a with
                {
                    Consents =
                    [
                        .. a.Consents.Where(c => c.By != change.Who),
                        new OutsideConsent(change.Who, (change.Role ?? "").Split(' '), null),
                    ],
                }
            ),
            DirectoryVerb.RemoveConsent => Application(a =>
                a with
                {
                    Consents = [.. a.Consents.Where(c => c.By != change.Who)],
                }
            ),
            DirectoryVerb.SetOwner when state.Groups.Any(g => g.Id == change.What) => Group(g =>
                g with
                {
                    Owner = change.Who,
                }
            ),
            DirectoryVerb.SetOwner => Resource(r => r with { Owner = change.Who }),
            _ => throw new ArgumentOutOfRangeException(nameof(change)),
        };

        DirectoryState Group(Func<OutsideGroup, OutsideGroup> with) =>
            state with
            {
                Groups = With(state.Groups, g => g.Id == change.What, with, change.What),
            };

        DirectoryState Resource(Func<OutsideResource, OutsideResource> with) =>
            state with
            {
                Resources = With(state.Resources, r => r.Id == change.What, with, change.What),
            };

        DirectoryState Application(Func<OutsideApplication, OutsideApplication> with) =>
            state with
            {
                Applications = With(state.Applications, a => a.Id == change.What, with, change.What),
            };
    }

    /// <summary>All of them, the one that fits changed.</summary>
    private static List<T> With<T>(IReadOnlyList<T> all, Func<T, bool> fits, Func<T, T> with, string? named) =>
        all.Any(fits)
            ? [.. all.Select(x => fits(x) ? with(x) : x)]
            : throw new DirectoryFailure($"The directory does not know “{named}”.");
}
