using ComeAboard.Client.Access;
using ComeAboard.Client.Invitations;
using ComeAboard.Service.Tests.World;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

/// <summary>A way to the database that breaks off just when something is kept: nothing lost, nothing twice, nothing said that is not so.</summary>
public sealed class LostAnswers(FarHarbour harbour) : IClassFixture<FarHarbour>
{
    [Fact]
    public async Task What_is_in_is_answered_as_kept_and_mailed_once()
    {
        var ship = await harbour.NewShipAsync();
        var address = ship.Address("ines");
        harbour.Way.Arm(Cut.AfterCommit, address);
        var sent = await ship.Client.SendInvitationAsync(
            new InvitationRequest(address, "guest", "view"),
            "once"
        );
        Assert.Equal(sent.Id, Assert.Single((await ship.Client.InvitationsAsync()).Items).Id);
        await ship.SecretAsync(address);
        Assert.Single(harbour.Inbox.To(address));
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);
    }

    [Fact]
    public async Task Of_many_at_once_each_hears_what_became_of_it()
    {
        var ship = await harbour.NewShipAsync();
        harbour.Way.Arm(Cut.AfterCommit, "Deck 5");
        var made = await Task.WhenAll(
            Enumerable.Range(1, 8).Select(n => ship.Client.Areas.AddAsync(new AreaRequest("Deck " + n)))
        );
        Assert.Equal(8, made.Length);
        Assert.Equal(
            8,
            (await ship.Client.Areas.ListAsync()).Items.Count(area =>
                area.Name.StartsWith("Deck", StringComparison.Ordinal)
            )
        );
    }

    [Fact]
    public async Task What_did_not_get_there_was_not_written_and_can_be_asked_for_again()
    {
        var ship = await harbour.NewShipAsync();
        var before = (await ship.Client.RecordAsync()).Items[0].Sequence;
        harbour.Way.Arm(Cut.BeforeCommit, "Hold");
        var refused = await CodeOf(ship.Client.Areas.AddAsync(new AreaRequest("Hold")));
        Assert.Equal("storage.away", refused);
        Assert.Equal(before, (await ship.Client.RecordAsync()).Items[0].Sequence);
        await ship.Client.Areas.AddAsync(new AreaRequest("Hold"));
    }

    [Fact]
    public async Task Where_it_cannot_be_known_that_is_said_and_the_key_gives_the_first_answer_later()
    {
        var ship = await harbour.NewShipAsync();
        var request = new InvitationRequest(ship.Address("wren"), "guest", "view");
        // Closed at once: whoever asks by another connection what became of it would hear so.
        harbour.Way.Arm(Cut.AfterCommit, request.Address, closes: true);
        try
        {
            var refusing = CodeOf(ship.Client.SendInvitationAsync(request, "the key"));
            Assert.Equal("storage.unknown", await refusing.WaitAsync(TimeSpan.FromSeconds(20)));
        }
        finally
        {
            harbour.Way.IsClosed = false;
        }
        var first = await ship.Client.SendInvitationAsync(request, "the key");
        Assert.Equal(first.Id, Assert.Single((await ship.Client.InvitationsAsync()).Items).Id);
        await ship.SecretAsync(request.Address);
        Assert.Single(harbour.Inbox.To(request.Address));
    }
}
