using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

public sealed class ListsInTheirOrder
{
    private static readonly Gen<EmailAddress> Address = Gen.Select(
        Gen.OneOf<string>("mira", "Mira", "ines", "kofi.d", "oona", "ole+tide"),
        Gen.OneOf<string>("pier.example", "PIER.example", "quay.example", "lock.example"),
        (local, domain) => EmailAddress.Read($"{local}@{domain}").Value
    );

    [Fact]
    public void Each_address_is_first_once_whatever_is_read_again_and_in_whatever_order() =>
        Gen.Select(Address.Array[0, 40], Gen.Int[0, 40])
            .Sample(
                (list, restart) =>
                {
                    var listed = new ListedAddresses();
                    var naive = new Dictionary<string, int>();
                    // Somebody who takes a list up again notes what was done before, then goes on.
                    foreach (var (number, address) in list.Take(restart).Select((a, n) => (n + 1, a)))
                        listed.Note(number, address);
                    foreach (var (number, address) in list.Select((a, n) => (n + 1, a)))
                    {
                        naive.TryAdd(address.Key, number);
                        var first = naive[address.Key] == number ? (int?)null : naive[address.Key];
                        Assert.Equal(first, listed.Note(number, address));
                        Assert.Equal(first, listed.Note(number, address));
                    }
                }
            );

    [Fact]
    public void A_domain_becomes_usual_with_its_third_address_and_is_told_of_once() =>
        Address
            .Array[0, 60]
            .Sample(list =>
            {
                var listed = new ListedAddresses();
                var told = list.Where(listed.IsUsual).Select(a => a.Domain).ToList();
                var usual = list.GroupBy(a => a.Domain).Where(g => g.Count() >= 3).Select(g => g.Key);
                Assert.Equal(usual.Order(), told.Order());
            });

    [Fact]
    public void What_stands_first_in_the_way_decides_and_what_costs_most_is_asked_last()
    {
        var fault = new Refusal("address.malformed", "x", "y");
        var invitation = Guid.NewGuid();
        Gen.Select(Gen.Bool, Gen.Bool, Gen.Bool, Gen.Bool, Gen.Bool)
            .Sample(
                (isFault, isOut, isEarlier, isForbidden, isPersonal) =>
                {
                    var asked = 0;
                    var (verdict, refusal) = Verdicts.Judge(
                        isFault ? fault : null,
                        isOut ? EntryRules.Ended : null,
                        isEarlier ? (invitation, InvitationState.Sent) : null,
                        () =>
                        {
                            asked++;
                            return isForbidden
                                ? new Refusal("seat.none-free", "x", "y", RefusalSort.Conflict)
                                : null;
                        },
                        isPersonal
                    );
                    var expected =
                        isFault ? (Verdict.Wrong, "address.malformed")
                        : isOut ? (Verdict.Blocked, "access.ended")
                        : isEarlier ? (Verdict.Invited, "address.invited-by-file")
                        : isForbidden ? (Verdict.Full, "seat.none-free")
                        : (isPersonal ? Verdict.Personal : Verdict.Ready, null);
                    Assert.Equal(expected, (verdict, refusal?.Code));
                    Assert.Equal(isFault || isOut || isEarlier ? 0 : 1, asked);
                    Assert.Equal(refusal is null, verdict.CanBeSent());
                    if (refusal?.Code == "address.invited-by-file")
                        Assert.Equal(invitation, refusal.Related);
                }
            );
    }

    [Fact]
    public void More_duties_open_more_pages_and_never_fewer_and_ones_own_places_are_always_there() =>
        Gen.Select(Gen.Int[0, (int)DutyWords.OfAdministrator], Gen.Int[0, (int)DutyWords.OfAdministrator])
            .Sample(
                (some, others) =>
                {
                    var (few, many) = ((Duties)some, (Duties)(some | others));
                    var pages = ConsolePages.For(few);
                    Assert.Contains(ConsolePage.MyPlaces, pages);
                    Assert.Empty(pages.Except(ConsolePages.For(many)));
                    Assert.Equal(few != Duties.None, pages.Contains(ConsolePage.Overview));
                    Assert.Equal(pages.Order(), pages);
                    Assert.All(pages, page => Assert.False(string.IsNullOrWhiteSpace(page.Title())));
                }
            );

    [Fact]
    public void An_outcome_goes_on_with_its_value_and_a_refusal_stays_what_it_is()
    {
        Outcome<int> good = 20;
        Outcome<int> bad = EntryRules.Paused;
        Assert.Equal("20", good.Then(n => n.ToString()).Value);
        Assert.Same(EntryRules.Paused, bad.Then(n => n.ToString()).Refusal);
        Assert.Equal(41, good.Then(n => n * 2).Then(n => n + 1).Value);
    }
}
