using System.Diagnostics;
using System.Text.RegularExpressions;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using Microsoft.Data.Sqlite;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>Scenes in which the service is killed at any moment and started again, a few times over.</summary>
public abstract partial class Killing : RealService
{
    /// <summary>How often it is killed before it may come to an end.</summary>
    protected const int Kills = 3;

    /// <summary>Lets the service work for a moment, and kills it.</summary>
    protected static async Task KillSoonAsync(Process service, int longestMs)
    {
        await Task.Delay(Random.Shared.Next(20, longestMs));
        await EndAsync(service);
    }

    /// <summary>Starts the service until something is so. Whoever comes next goes on, and is killed as well.</summary>
    protected async Task UntilUnderKillsAsync(int longestMs, Func<Task<bool>> isSo)
    {
        for (var kills = 0; ; kills++)
        {
            using var service = await ServeAsync();
            if (kills < Kills)
            {
                await KillSoonAsync(service, longestMs);
                continue;
            }
            await UntilAsync(isSo);
            await EndAsync(service);
            return;
        }
    }

    protected async Task AcceptAsync(AboardClient workspace, InvitationRequest request, bool isNew)
    {
        await workspace.SendInvitationAsync(request, request.Address);
        var mail = await MailAsync(
            request.Address,
            "",
            text =>
                InvitationPattern().IsMatch(text) && !_used.Contains(InvitationPattern().Match(text).Value)
        );
        var link = InvitationPattern().Match(mail).Value;
        _used.Add(link);
        using var anybody = new AboardClient(Url);
        await anybody.AcceptAsync(
            new AcceptRequest(
                link[^43..],
                Password,
                isNew ? "A sailor" : null,
                isNew ? null : request.Address
            )
        );
    }

    private readonly HashSet<string> _used = [];

    /// <summary>The text of a mail that has come.</summary>
    protected async Task<string> MailAsync(string to, string subject, Func<string, bool> which)
    {
        string? found = null;
        await UntilAsync(() =>
        {
            found = Smtp
                .Inbox.To(to)
                .Where(mail => mail.Message.Subject!.Contains(subject) && which(mail.Message.TextBody!))
                .Select(mail => mail.Message.TextBody)
                .FirstOrDefault();
            return Task.FromResult(found is not null);
        });
        return found!;
    }

    protected async Task<int> CountAsync(string sql)
    {
        await using var connection = new SqliteConnection(
            $"Data Source={Settings["COMEABOARD_DATABASE__PATH"]};Pooling=False"
        );
        await connection.OpenAsync();
        await using var command = connection.CreateCommand();
        command.CommandText = sql;
        return Convert.ToInt32(await command.ExecuteScalarAsync());
    }

    protected static async Task EndAsync(Process service)
    {
        service.Kill();
        await service.WaitForExitAsync();
    }

    [GeneratedRegex("/i/[A-Za-z0-9_-]{43}")]
    private static partial Regex InvitationPattern();
}
