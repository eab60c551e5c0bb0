using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>When a sign-in was last used. Written beside the request, which waits for nobody who writes.</summary>
public sealed class SessionMarks(
    Database database,
    WriteGate gate,
    TimeProvider clock,
    ILogger<SessionMarks> log
)
{
    /// <summary>Notes that a session is in use.</summary>
    /// <param name="hash">The hash of its secret.</param>
    public void Note(string hash) =>
        _ = Task.Run(async () =>
        {
            try
            {
                var now = clock.Now();
                using var pass = await gate.EnterAsync();
                await using var rows = database.Open();
                await rows
                    .Sessions.Where(s => s.SecretHash == hash && s.SeenAt < now)
                    .ExecuteUpdateAsync(set => set.SetProperty(s => s.SeenAt, now));
            }
            catch (Exception fault)
            {
                log.LogDebug(fault, "When a sign-in was last used could not be written down");
            }
        });
}
