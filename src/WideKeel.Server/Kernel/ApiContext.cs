using Microsoft.AspNetCore.Mvc;
using WideKeel.Store;

namespace WideKeel.Server.Kernel;

/// <summary>
/// What a handler takes that would otherwise take more than five things: who asks, where everything is kept, and the
/// day.
/// </summary>
public sealed record ApiContext(
    HttpContext Http,
    [FromServices] Caller Caller,
    [FromServices] WideKeelDb Db,
    [FromServices] Writer Writer,
    [FromServices] OrganisationCalendar Calendar,
    CancellationToken Cancel
);
