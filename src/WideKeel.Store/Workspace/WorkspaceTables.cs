using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Workspace;

namespace WideKeel.Store;

/// <content>The tables of the workspace.</content>
public sealed partial class WideKeelDb
{
    public DbSet<WorkspaceFile> WorkspaceFiles => Set<WorkspaceFile>();

    public DbSet<WorkspaceVersion> WorkspaceVersions => Set<WorkspaceVersion>();
}
