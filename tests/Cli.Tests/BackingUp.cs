using ComeAboard.Client.Invitations;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>Back-up, check and restoring by their commands, beside a service that works.</summary>
public sealed class BackingUp : RealService
{
    [Fact]
    public async Task A_back_up_is_taken_while_the_service_works_and_becomes_a_service_again()
    {
        using var client = await SetUpWorkspaceAsync();
        var file = Path.Combine(Place.FullName, "monday.aboard");
        using (var service = await ServeAsync())
        {
            await client.SendInvitationAsync(
                new InvitationRequest("ines@tide.example", "guest", "view"),
                "before"
            );
            Check(await OfAsync("backup", file), 0, "all of it adds up");
            await client.SendInvitationAsync(
                new InvitationRequest("joao@tide.example", "guest", "view"),
                "after"
            );
            Check(await OfAsync("check"), 0, "2 invitations");
            Check(await OfAsync("restore", file), 5, "restore.not-empty");
            Check(await OfAsync("backup", file), 5, "file.exists");
            service.Kill();
            await service.WaitForExitAsync();
        }
        Check(await OfAsync("check", file), 0, "1 invitation,");
        Check(await OfAsync("check", Path.Combine(Place.FullName, "none")), 5, "file.unknown");
        await File.WriteAllTextAsync(
            Path.Combine(Place.FullName, "no-database"),
            "Ahoy, this is no database."
        );
        // What is no back-up is said of the file, not of the database.
        var none = Path.Combine(Place.FullName, "no-database");
        Check(await OfAsync("check", none), 5, "backup.unreadable");
        await File.WriteAllTextAsync(none, "");
        Check(await OfAsync("check", none), 5, "backup.unreadable");
        Check(
            await OfAsync("backup", Path.Combine(Place.FullName, "no", "such", "place")),
            5,
            "file.unwritable"
        );
        Check(await OfAsync("restore"), 1, "FILE");

        Settings["COMEABOARD_DATABASE__PATH"] = Path.Combine(Place.FullName, "restored.db");
        Check(await OfAsync("restore", file), 0, "Everybody signs in anew");
        Check(await OfAsync("check"), 0, "All of it adds up");
        using var again = await ServeAsync();
        var invitation = Assert.Single((await client.InvitationsAsync()).Items);
        Assert.Equal("ines@tide.example", invitation.Address);
        Assert.True((await client.VerifyRecordAsync()).Whole);
        again.Kill();
        await again.WaitForExitAsync();
    }

    private Task<Run> OfAsync(params string[] arguments) =>
        Programs.RunAsync(Programs.Service, Settings, null, arguments);

    private static void Check(Run run, int status, string says)
    {
        Assert.Contains(says, run.Output + run.Error, StringComparison.Ordinal);
        Assert.Equal(status, run.Status);
    }
}
