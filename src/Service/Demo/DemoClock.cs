using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Demo;

/// <summary>The clock of a day in the demo's past.</summary>
internal sealed class DemoClock : TimeProvider
{
    private DateTimeOffset _now = DateTimeOffset.UtcNow;

    public override DateTimeOffset GetUtcNow() => _now;

    public void MoveTo(DateTimeOffset now) => _now = now;
}
