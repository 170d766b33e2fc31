namespace WideKeel.Server.Workspace;

/// <summary>The built-in workspace: libraries, folders, files and their versions.</summary>
public sealed class WorkspacePart : IPart
{
    public string Name => "Workspace";

    public int Order => 90;

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapWorkspace();
    }
}
