using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

public sealed class WhoMayComeIn
{
    private static readonly EmailAddress Ines = EmailAddress.Read("ines@saltmarsh-university.example").Value;

    [Fact]
    public void An_account_without_the_invited_address_never_comes_in_without_its_code() =>
        Gen.Select(Gen.Bool, Gen.Bool, Gen.Bool, Gen.Bool)
            .Sample(
                (holds, isElsewhere, codeShown, isMember) =>
                {
                    var refusal = AcceptanceRules.Forbids(
                        Ines,
                        new Arrival.WithHeldAccount(holds, isElsewhere, codeShown, isMember)
                    );
                    if (refusal is null)
                        Assert.True(!isMember && (holds || (codeShown && !isElsewhere)));
                }
            );

    [Fact]
    public void A_new_account_cannot_take_an_address_somebody_has_proved()
    {
        Assert.Equal("account.exists", AcceptanceRules.Forbids(Ines, new Arrival.WithNewAccount(true))!.Code);
        Assert.Null(AcceptanceRules.Forbids(Ines, new Arrival.WithNewAccount(false)));
    }

    [Fact]
    public void Somebody_here_or_asked_already_is_pointed_to_and_not_asked_again()
    {
        var (member, invitation) = (Guid.NewGuid(), Guid.NewGuid());
        Assert.Equal(("address.member", member), Verdict(new AddressStanding(member, invitation, true)));
        Assert.Equal(("address.opted-out", null), Verdict(new AddressStanding(null, invitation, true)));
        Assert.Equal(("address.invited", invitation), Verdict(new AddressStanding(null, invitation, false)));
        Assert.Null(InvitingRules.Forbids(Ines, new AddressStanding(null, null, false)));

        static (string, Guid?) Verdict(AddressStanding standing)
        {
            var refusal = InvitingRules.Forbids(Ines, standing)!;
            return (refusal.Code, refusal.Related);
        }
    }

    [Theory]
    [InlineData("short", "password.too-short")]
    [InlineData("aaaaaaaaaaaa", "password.too-plain")]
    [InlineData("Password123", "password.too-plain")]
    [InlineData("ines@saltmarsh-university.example", "password.too-plain")]
    [InlineData("a rope and a lantern", null)]
    public void Passwords_are_judged_by_length_and_by_what_is_tried_first(string password, string? code) =>
        Assert.Equal(code, PasswordRules.Forbids(password, Ines.ToString())?.Code);

    [Fact]
    public void A_secret_cut_short_or_changed_is_no_secret_or_another()
    {
        Gen.Byte.Array[Secret.Length]
            .Sample(bits =>
            {
                var secret = Secret.Of(bits);
                var text = secret.Reveal();
                Assert.True(Secret.Read(text)!.Hash().Matches(secret.Hash()));
                Assert.Null(Secret.Read(text[..^1]));
                Assert.Null(Secret.Read(text + "A"));
                Assert.DoesNotContain(text, secret.ToString(), StringComparison.Ordinal);
            });
    }

    [Fact]
    public void An_offer_is_read_whole_or_refused_with_the_field_at_fault()
    {
        var today = new DateOnly(2026, 11, 23);
        var wish = new InvitationWish("ines@saltmarsh-university.example", "GUEST", "VIEW", Until: today);
        var offer = InvitationOffer.Read(wish, today, "en", AccessWorld.Empty).Value;
        Assert.Equal((Kind.Guest, today), (offer.Kind, offer.Stay.LastDay!.Value));
        Assert.Equal(new GivenRole(Role.View.Id), Assert.Single(offer.Gives.Roles));

        Assert.Equal(("kind.unknown", "kind"), Fault(wish with { Kind = "pirate" }));
        Assert.Equal(("role.unknown", "role"), Fault(wish with { Role = "captain" }));
        Assert.Equal(("group.unknown", "group"), Fault(wish with { Group = "Deck watch" }));
        Assert.Equal(("resource.unknown", "resource"), Fault(wish with { Resource = "Register" }));
        Assert.Equal(("stay.past", "until"), Fault(wish with { Until = today.AddDays(-1) }));
        Assert.Equal(("stay.too-far", "until"), Fault(wish with { Until = today.AddYears(51) }));
        Assert.Equal(("language.unknown", "language"), Fault(wish with { Language = "tlh" }));

        (string, string?) Fault(InvitationWish wrong)
        {
            var refusal = InvitationOffer.Read(wrong, today, "en", AccessWorld.Empty).Refusal!;
            return (refusal.Code, refusal.Field);
        }
    }
}
