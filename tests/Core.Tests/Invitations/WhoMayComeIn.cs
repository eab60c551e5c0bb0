using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

public sealed class WhoMayComeIn
{
    private static readonly EmailAddress Ines = EmailAddress.Read("ines@saltmarsh-university.example").Value;

    private static readonly EmailAddress Other = EmailAddress.Read("ines.c@post.example").Value;

    [Fact]
    public void Nobody_comes_in_at_an_address_they_have_not_shown_to_be_theirs() =>
        Gen.Select(Gen.Bool, Gen.Bool.Array[6])
            .Sample(
                (isHanded, said) =>
                {
                    var (holds, elsewhere, code, member) = (said[0], said[2], said[3], said[4]);
                    var proved = holds && said[1];
                    var own = proved || said[5] ? Other : null;
                    var arrival = new Arrival.WithHeldAccount(holds, proved, elsewhere, code, member, own);
                    if (!AcceptanceRules.Admit(Ines, isHanded, arrival).Try(out var admission, out _))
                        return;
                    Assert.False(member);
                    // What is proved by coming was shown just now: by the mail itself, or by its code.
                    if (admission.Proves is { } shown)
                        Assert.True(shown.Key == Ines.Key && (code || holds && !isHanded));
                    // Another address than the invited one is one's own, and only by a link that was handed over.
                    if (admission.CameAs is { } other)
                        Assert.True(isHanded && own is not null && other.Key == own.Key && !elsewhere);
                    if (admission is { Proves: null, CameAs: null })
                        Assert.True(proved);
                }
            );

    [Fact]
    public void A_new_account_proves_its_mailbox_by_the_mail_itself_or_by_a_code()
    {
        Assert.Equal("account.exists", Code(false, new Arrival.WithNewAccount(Ines, true, true)));
        Assert.Null(Code(false, new Arrival.WithNewAccount(Ines, false, false)));
        Assert.Equal("code.needed", Code(true, new Arrival.WithNewAccount(Ines, false, false)));
        Assert.Equal("code.needed", Code(true, new Arrival.WithNewAccount(Other, false, false)));
        Assert.Equal("code.needed", Code(false, new Arrival.WithNewAccount(Other, false, false)));
        Assert.Null(
            AcceptanceRules.Admit(Ines, true, new Arrival.WithNewAccount(Ines, true, false)).Value.CameAs
        );
        var other = AcceptanceRules.Admit(Ines, true, new Arrival.WithNewAccount(Other, true, false)).Value;
        Assert.Equal((Other, Other), (other.CameAs, other.Proves));

        static string? Code(bool isHanded, Arrival arrival) =>
            AcceptanceRules.Admit(Ines, isHanded, arrival).Refusal?.Code;
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
        var offer = InvitationOffer
            .Read(
                wish,
                new UsualOffer(today, "en", TimeSpan.FromDays(30), new HouseRules()),
                AccessWorld.Empty
            )
            .Value;
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
            var refusal = InvitationOffer
                .Read(
                    wrong,
                    new UsualOffer(today, "en", TimeSpan.FromDays(30), new HouseRules()),
                    AccessWorld.Empty
                )
                .Refusal!;
            return (refusal.Code, refusal.Field);
        }
    }
}
