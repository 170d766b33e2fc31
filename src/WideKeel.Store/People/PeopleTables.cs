using Microsoft.EntityFrameworkCore;
using WideKeel.Store.People;

namespace WideKeel.Store;

/// <content>The tables of people.</content>
public sealed partial class WideKeelDb
{
    public DbSet<Organisation> Organisations => Set<Organisation>();

    public DbSet<Unit> Units => Set<Unit>();

    public DbSet<PersonRemit> Remits => Set<PersonRemit>();

    public DbSet<ApiKey> ApiKeys => Set<ApiKey>();

    public DbSet<SignInSession> SignInSessions => Set<SignInSession>();

    public DbSet<Authenticator> Authenticators => Set<Authenticator>();

    public DbSet<RecoveryCode> RecoveryCodes => Set<RecoveryCode>();

    public DbSet<PersonLink> PersonLinks => Set<PersonLink>();

    public DbSet<DirectoryIntent> DirectoryIntents => Set<DirectoryIntent>();

    public DbSet<DirectoryPerson> DirectoryPeople => Set<DirectoryPerson>();

    public DbSet<DirectoryGroup> DirectoryGroups => Set<DirectoryGroup>();

    public DbSet<DirectoryMembership> DirectoryMemberships => Set<DirectoryMembership>();

    public DbSet<DirectorySource> DirectorySources => Set<DirectorySource>();

    public DbSet<DirectoryPlace> DirectoryPlaces => Set<DirectoryPlace>();

    public DbSet<DirectoryTouch> DirectoryTouches => Set<DirectoryTouch>();

    public DbSet<DirectoryGrant> DirectoryGrants => Set<DirectoryGrant>();

    public DbSet<DirectoryApplication> DirectoryApplications => Set<DirectoryApplication>();
}
