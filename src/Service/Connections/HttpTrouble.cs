using System.Net;

namespace ComeAboard.Service.Connections;

/// <summary>What goes wrong with calls over HTTP, as trouble of an outside system. Nothing is sent twice by it.</summary>
internal static class HttpTrouble
{
    private static readonly TimeSpan UsualWait = TimeSpan.FromSeconds(2);

    /// <summary>Has what is wrong with the way there be trouble.</summary>
    public static async Task<T> AskedAsync<T>(Func<Task<T>> ask, CancellationToken stop)
    {
        try
        {
            return await ask();
        }
        catch (Exception fault) when (fault is HttpRequestException or IOException)
        {
            throw new TargetException(
                Trouble.Away,
                "It cannot be reached: " + (fault.InnerException?.Message ?? fault.Message)
            );
        }
        catch (OperationCanceledException) when (!stop.IsCancellationRequested)
        {
            throw new TargetException(Trouble.Away, "It does not answer in time.");
        }
    }

    /// <summary>What an answer that is no success means.</summary>
    /// <param name="answer">The answer.</param>
    /// <param name="said">What it says in words; empty for nothing.</param>
    /// <param name="clock">By which an instant in it is told.</param>
    public static TargetException Of(HttpResponseMessage answer, string said, TimeProvider clock)
    {
        var status = (int)answer.StatusCode;
        var sentence = $"It answered {status}{(said.Length > 0 ? ": " + said : ".")}";
        var no = answer.StatusCode switch
        {
            HttpStatusCode.TooManyRequests => new TargetException(
                Trouble.Busy,
                "It asks to be left alone for a while (429).",
                ScimDoor.WaitOf(answer, clock) ?? UsualWait
            ),
            HttpStatusCode.Unauthorized or HttpStatusCode.Forbidden => new TargetException(
                Trouble.Barred,
                $"It does not let us do this ({status})."
            ),
            HttpStatusCode.BadGateway or HttpStatusCode.ServiceUnavailable or HttpStatusCode.GatewayTimeout =>
                new TargetException(Trouble.Away, sentence, ScimDoor.WaitOf(answer, clock)),
            _ => new TargetException(Trouble.ThisOne, sentence),
        };
        no.Data["status"] = status;
        return no;
    }
}
