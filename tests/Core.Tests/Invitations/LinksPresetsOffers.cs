using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

/// <summary>Terms of join links, presets and offers as they are read, at their edges.</summary>
public sealed class LinksPresetsOffers
{
    private static readonly JoinLinkWish Link = new(
        " Open evening ",
        "guest",
        new BundleWish([new RoleWish("view")], [], []),
        null,
        null,
        20,
        null,
        false,
        null,
        null,
        null
    );

    private static Outcome<JoinLinkTerms> Terms(JoinLinkWish wish) =>
        JoinLinkTerms.Read(wish, Ship.Now, Ship.Today, "de", new HouseRules(), Ship.World);

    [Fact]
    public void A_link_is_as_it_was_wished_and_else_as_usual()
    {
        var terms = Terms(Link).Value;
        Assert.Equal(
            ("Open evening", Kind.Guest, 20, "de", ""),
            (terms.Label, terms.Kind, terms.Cap, terms.Language, terms.Message)
        );
        Assert.Equal((Ship.Now.AddDays(14), 90, Stay.Endless), (terms.ExpiresAt, terms.StayDays, terms.Stay));
        Assert.Null(Terms(Link with { NoEnd = true }).Value.StayDays);
        Assert.Equal(7, Terms(Link with { NoEnd = true, StayDays = 7 }).Value.StayDays);
        var until = Terms(Link with { Until = Ship.Today.AddDays(3) }).Value;
        Assert.Equal((null, new Stay(Ship.Today.AddDays(3))), (until.StayDays, until.Stay));
        Assert.Null(Terms(Link with { Kind = "staff" }).Value.StayDays);
        var said = Terms(
            Link with
            {
                Language = "EN",
                Message = " Come. ",
                NeedsApproval = true,
                Domains = ["@Tide.example"],
                Days = 3,
            }
        ).Value;
        Assert.Equal(
            ("en", "Come.", true, Ship.Now.AddDays(3)),
            (said.Language, said.Message, said.NeedsApproval, said.ExpiresAt)
        );
        Assert.Equal(["tide.example"], said.Domains);
    }

    [Fact]
    public void A_link_that_cannot_be_names_its_field()
    {
        Says("name.characters", "label", Link with { Label = "a\u0000" });
        Says("link.label", "label", Link with { Label = " " });
        Says("kind.unknown", "kind", Link with { Kind = "pirate" });
        Says("role.unknown", "role", Link with { Gives = new BundleWish([new RoleWish("captain")], [], []) });
        Says("role.missing", "role", Link with { Gives = BundleWish.None });
        Says("stay.past", "until", Link with { Until = Ship.Today.AddDays(-1) });
        Says("link.out-of-range", "stayDays", Link with { StayDays = 0 });
        Says("link.out-of-range", "stayDays", Link with { StayDays = 18_251 });
        Says("link.out-of-range", "cap", Link with { Cap = 0 });
        Says("link.out-of-range", "cap", Link with { Cap = 10_001 });
        Says("link.out-of-range", "days", Link with { Days = 0 });
        Says("link.out-of-range", "days", Link with { Days = 366 });
        Says("domain.malformed", "domains", Link with { Domains = ["no domain"] });
        Says("message.link", "message", Link with { Message = "www.elsewhere.example" });
        Says("language.unknown", "language", Link with { Language = "tlh" });
        Assert.Equal(
            "The number of people must be 1 to 10000.",
            Terms(Link with { Cap = 0 }).Refusal!.Sentence
        );
        Assert.Equal(
            "The life of a link must be 1 to 365 days.",
            Terms(Link with { Days = 0 }).Refusal!.Sentence
        );
        foreach (var (stay, cap, days) in new[] { (1, 1, 1), (18_250, 10_000, 365) })
        {
            var terms = Terms(Link with { StayDays = stay, Cap = cap, Days = days }).Value;
            Assert.Equal((stay, cap, Ship.Now.AddDays(days)), (terms.StayDays, terms.Cap, terms.ExpiresAt));
        }

        static void Says(string code, string field, JoinLinkWish wish)
        {
            var no = Terms(wish).Refusal!;
            Assert.Equal((code, field), (no.Code, no.Field));
        }
    }

    [Fact]
    public void A_link_shuts_in_its_order_and_says_so()
    {
        Assert.Equal(JoinLinkState.Open, Now(false, 1, 2, 1));
        Assert.Equal(JoinLinkState.Expired, Now(false, 1, 2, 0));
        Assert.Equal(JoinLinkState.UsedUp, Now(false, 2, 2, 0));
        Assert.Equal(JoinLinkState.Closed, Now(true, 2, 2, 0));
        Assert.Equal(
            ["open", "used up", "expired", "closed"],
            Enum.GetValues<JoinLinkState>().Select(state => state.Word())
        );
        Assert.Equal(
            [null, "link.used-up", "link.expired", "link.closed"],
            Enum.GetValues<JoinLinkState>().Select(state => JoinLinkRules.Forbids(state)?.Code)
        );
        Assert.Equal(RefusalSort.Conflict, JoinLinkRules.Forbids(JoinLinkState.Closed)!.Sort);

        static JoinLinkState Now(bool closed, int uses, int cap, int ticks) =>
            JoinLinkRules.StateOf(closed, uses, cap, Ship.Now.AddTicks(ticks), Ship.Now);
    }

    [Fact]
    public void A_link_for_domains_takes_addresses_there_and_names_five_of_them()
    {
        Assert.Null(JoinLinkRules.ForbidsDomain([], Ship.At("a@orlo.example")));
        Assert.Null(
            JoinLinkRules.ForbidsDomain(["a.example", "tide.example"], Ship.At("a@lab.tide.example"))
        );
        var no = JoinLinkRules.ForbidsDomain(
            [.. "abcdef".Select(c => $"{c}.example")],
            Ship.At("a@orlo.example")
        )!;
        Assert.Equal(("link.domain", "address", RefusalSort.Conflict), (no.Code, no.Field, no.Sort));
        Assert.EndsWith(
            "at a.example, b.example, c.example, d.example, e.example.",
            no.Sentence,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_link_is_made_by_somebody_who_could_give_it_and_reserves_no_seats()
    {
        var terms = Terms(Link).Value;
        var made = Add(terms, Ship.Yara).Value;
        Assert.Equal(
            (true, false, (Guid?)Ship.Yara.Id, "link.added"),
            (made.Renews, made.Closes, made.Answerable, made.Entry)
        );
        Assert.Equal("right.missing", Add(terms, Ship.Bo).Refusal!.Code);
        Assert.Equal(
            "right.beyond-own",
            Add(terms with { Gives = Bundle.Of(Role.Edit) }, Ship.Yara).Refusal!.Code
        );
        var seats = Add(terms with { Gives = terms.Gives with { Pools = [Ship.Desks] } }, Ship.Yara).Refusal!;
        Assert.Equal(("link.seats", "seats", RefusalSort.Conflict), (seats.Code, seats.Field, seats.Sort));
        var rules = new HouseRules
        {
            Inviters = new Dictionary<Kind, IReadOnlyList<Guid>> { [Kind.Guest] = [Role.Manage.Id] },
        };
        // The rule of the house comes before what somebody holds.
        Assert.Equal(
            "rule.inviter",
            Add(terms with { Gives = Bundle.Of(Role.Edit) }, Ship.Yara, rules).Refusal!.Code
        );
        Assert.True(Add(terms, Ship.Mira, rules).Succeeded);

        var renewed = Renew(JoinLinkState.Open, Ship.Yara).Value;
        Assert.Equal(
            (true, (Guid?)Ship.Yara.Id, "link.renewed"),
            (renewed.Renews, renewed.Answerable, renewed.Entry)
        );
        Assert.Equal("Make another link.", Renew(JoinLinkState.Expired, Ship.Yara).Refusal!.Remedy);
        Assert.Equal("right.missing", Renew(JoinLinkState.Open, Ship.Bo).Refusal!.Code);

        static Outcome<JoinLinkConsequences> Add(
            JoinLinkTerms terms,
            Person actor,
            HouseRules? rules = null
        ) => JoinLinkCourse.Add(terms, Ship.World, rules ?? new HouseRules(), actor.Id, Ship.Today);
        Outcome<JoinLinkConsequences> Renew(JoinLinkState state, Person actor) =>
            JoinLinkCourse.Renew(
                state,
                Kind.Guest,
                terms.Gives,
                Ship.World,
                new HouseRules(),
                actor.Id,
                Ship.Today
            );
    }

    private static Outcome<Preset> PresetOf(
        string? name = "Researcher",
        string? kind = "partner",
        int? days = 10,
        string? organisation = "ti",
        string? message = "Welcome.",
        string? language = "DE",
        string role = "view",
        bool noEnd = false
    ) =>
        Preset.Read(
            name,
            kind,
            new BundleWish(role.Length > 0 ? [new RoleWish(role)] : [], [], []),
            days,
            organisation,
            message,
            language,
            noEnd,
            Ship.World
        );

    [Fact]
    public void A_preset_is_read_whole_or_its_field_is_named()
    {
        var preset = PresetOf().Value;
        Assert.Equal(
            ("Researcher", Kind.Partner, 10, "Tide Institute", "Welcome.", "de", false),
            (
                preset.Name,
                preset.Kind,
                preset.StayDays,
                preset.Organisation,
                preset.Message,
                preset.Language,
                preset.NoEnd
            )
        );
        Assert.True(PresetOf(noEnd: true, days: null).Value.NoEnd);
        Assert.Null(PresetOf(language: "").Value.Language);
        Assert.Equal(1, PresetOf(days: 1).Value.StayDays);
        Assert.Equal(18_250, PresetOf(days: 18_250).Value.StayDays);
        Says("name.too-long", "name", PresetOf(name: new string('x', 101)));
        Says("preset.name", "name", PresetOf(name: " "));
        Says("kind.unknown", "kind", PresetOf(kind: "pirate"));
        Says("role.unknown", "role", PresetOf(role: "captain"));
        Says("preset.nothing", "role", PresetOf(role: ""));
        Says("preset.stay", "stayDays", PresetOf(days: 0));
        Says("preset.stay", "stayDays", PresetOf(days: 18_251));
        Says("name.characters", "organisation", PresetOf(organisation: "a\u0000"));
        Says("organisation.unknown", "organisation", PresetOf(organisation: "Quay"));
        Says("message.link", "message", PresetOf(message: "www.elsewhere.example"));
        Says("language.unknown", "language", PresetOf(language: "tlh"));

        static void Says(string code, string field, Outcome<Preset> outcome)
        {
            var no = outcome.Refusal!;
            Assert.Equal((code, field), (no.Code, no.Field));
        }
    }

    [Fact]
    public void What_a_wish_says_itself_stays_and_the_rest_is_filled_in()
    {
        var preset = PresetOf().Value;
        var wish = new InvitationWish(
            "a@tide.example",
            "guest",
            null,
            null,
            "Own words.",
            Ship.Today.AddDays(2),
            "en"
        )
        {
            Organisation = "Own",
            More = new BundleWish([new RoleWish("edit")], ["Crew"], ["Reading desks"]),
        };
        var filled = preset.Fill(wish, Ship.Today);
        Assert.Equal(
            ("guest", "Own", "Own words.", "en", Ship.Today.AddDays(2), false),
            (filled.Kind, filled.Organisation, filled.Message, filled.Language, filled.Until, filled.NoEnd)
        );
        Assert.Equal(["edit", Role.View.Id.ToString()], filled.More.Roles.Select(role => role.Role));
        Assert.Equal(["Crew"], filled.More.Groups);
        Assert.Equal(["Reading desks"], filled.More.Seats);
        var bare = preset.Fill(
            new InvitationWish("a@tide.example", null) { Message = " ", From = Ship.Today.AddDays(5) },
            Ship.Today
        );
        Assert.Equal(
            ("partner", "Tide Institute", "Welcome.", "de", Ship.Today.AddDays(14), false),
            (bare.Kind, bare.Organisation, bare.Message, bare.Language, bare.Until, bare.NoEnd)
        );
        // A preset of no end gives one only where no last day is said.
        var endless = preset with
        {
            StayDays = null,
        };
        Assert.False(endless.Fill(wish, Ship.Today).NoEnd);
        Assert.True(endless.Fill(wish with { Until = null }, Ship.Today).NoEnd);
        Assert.True(preset.Fill(wish with { Until = null, NoEnd = true }, Ship.Today).NoEnd);
        Assert.Null(preset.Fill(wish with { Until = null, NoEnd = true }, Ship.Today).Until);
        Assert.Null(
            (preset with { Organisation = "" })
                .Fill(wish with { Organisation = null }, Ship.Today)
                .Organisation
        );
    }

    private static readonly InvitationWish Wish = new("ines@orlo.example", "guest", "view");

    private static Outcome<InvitationOffer> Read(InvitationWish wish) =>
        InvitationOffer.Read(
            wish,
            new UsualOffer(Ship.Today, "de", TimeSpan.FromDays(30), new HouseRules()),
            Ship.World
        );

    [Fact]
    public void An_offer_carries_what_was_written()
    {
        var offer = Read(
            Wish with
            {
                GivenName = "Ines",
                FamilyName = "Calloway",
                Title = "Keeper",
                Department = "Nets",
                Manager = "Bo",
                Country = "PT",
                Note = "Tall",
                Host = " mira@ship.example ",
                Organisation = "ti",
                AnswerDays = 1,
                Group = " Crew ; Readers; ",
                Resource = "Logbook",
                More = new BundleWish([new RoleWish("edit")], ["Crew"], ["Reading desks"]),
            }
        ).Value;
        Assert.Equal(
            new PersonDetails("Ines", "Calloway", "Tide Institute", "Keeper", "Nets", "Bo", "PT", "Tall"),
            offer.Details
        );
        Assert.Equal(("Ines Calloway", "mira@ship.example", "de"), (offer.Name, offer.Host, offer.Language));
        Assert.Equal((Ship.Tide.Id, TimeSpan.FromDays(1)), (offer.OrganisationId, offer.AnswerTime));
        Assert.Equal(
            [new GivenRole(Role.View.Id, Ship.Logbook.Id), new GivenRole(Role.Edit.Id)],
            offer.Gives.Roles
        );
        Assert.Equal([Ship.Crew.Id, Ship.Readers.Id], offer.Gives.Groups);
        Assert.Equal([Ship.Desks], offer.Gives.Pools);
        var plain = Read(Wish with { Host = " ", Name = "Ines", GivenName = "Other" }).Value;
        Assert.Equal((null, "Ines", TimeSpan.FromDays(30)), (plain.Host, plain.Name, plain.AnswerTime));
        Assert.Null(plain.OrganisationId);
        Assert.Equal(TimeSpan.FromDays(365), Read(Wish with { AnswerDays = 365 }).Value.AnswerTime);
        Assert.Equal("answer-time.out-of-range", Read(Wish with { AnswerDays = 366 }).Refusal!.Code);
        Assert.Equal("answerDays", Read(Wish with { AnswerDays = 0 }).Refusal!.Field);
        Assert.True(Wish.SaysWhatItGives);
        Assert.False((Wish with { Role = " " }).SaysWhatItGives);
        Assert.True((Wish with { Role = null, Group = "Crew" }).SaysWhatItGives);
    }

    [Fact]
    public void An_organisations_people_come_as_its_kind_where_the_kind_cannot_be_read()
    {
        // The kind decides how long somebody usually stays, so it is guessed from what is known.
        var (offer, faults) = InvitationOffer.ReadThrough(
            Wish with
            {
                Kind = "pirate",
                Organisation = "ti",
            },
            new UsualOffer(Ship.Today, "de", TimeSpan.FromDays(30), new HouseRules()),
            Ship.World
        );
        Assert.Equal(["kind.unknown"], faults.Select(fault => fault.Code));
        Assert.Equal(Kind.Partner, offer.Kind);
    }

    [Theory]
    [InlineData("givenName")]
    [InlineData("familyName")]
    [InlineData("organisation")]
    [InlineData("title")]
    [InlineData("department")]
    [InlineData("manager")]
    [InlineData("country")]
    [InlineData("note")]
    public void A_detail_that_cannot_be_kept_is_named(string field)
    {
        var no = PersonDetails.Read(With("a\u0000b")).Refusal!;
        Assert.Equal(("name.characters", field), (no.Code, no.Field));
        Assert.StartsWith($"The {field} holds", no.Sentence, StringComparison.Ordinal);
        // What stands in mails as a name holds no link; elsewhere a dot is no fault.
        var link = PersonDetails.Read(With("tide.example")).Refusal;
        Assert.Equal(field is "givenName" or "familyName" ? "name.link" : null, link?.Code);
        // The first fault found is the one named.
        var two = With("a\u0000b") with
        {
            Note = "a\u0000b",
        };
        Assert.Equal(field, PersonDetails.Read(two).Refusal!.Field);

        InvitationWish With(string text) =>
            field switch
            {
                "givenName" => Wish with { GivenName = text },
                "familyName" => Wish with { FamilyName = text },
                "organisation" => Wish with { Organisation = text },
                "title" => Wish with { Title = text },
                "department" => Wish with { Department = text },
                "manager" => Wish with { Manager = text },
                "country" => Wish with { Country = text },
                _ => Wish with { Note = text },
            };
    }

    [Theory]
    [InlineData("1.1", "the mailbox does not exist")]
    [InlineData("1.6", "the mailbox does not exist")]
    [InlineData("1.2", "the mail domain does not exist or takes no mail")]
    [InlineData("1.10", "the mail domain does not exist or takes no mail")]
    [InlineData("4.4", "the mail domain does not exist or takes no mail")]
    [InlineData("1.3", "the address is not written as that server wants it")]
    [InlineData("2.1", "the mailbox is switched off")]
    [InlineData("2.3", "the mail was too large for that mailbox")]
    [InlineData("3.4", "the mail was too large for that mailbox")]
    [InlineData("4.1", "the recipient's mail server does not answer")]
    [InlineData("4.2", "the recipient's mail server does not answer")]
    [InlineData("4.7", "the mail server gave up after trying for too long")]
    [InlineData("4.6", "the mail was sent round in a circle")]
    [InlineData("7.0", "the recipient's mail server does not want this mail")]
    [InlineData("7.1", "the recipient's mail server does not want this mail")]
    [InlineData("7.20", "the recipient's mail server could not see that the mail is really ours")]
    [InlineData("7.21", "the recipient's mail server could not see that the mail is really ours")]
    [InlineData("7.22", "the recipient's mail server could not see that the mail is really ours")]
    [InlineData("7.23", "the recipient's mail server could not see that the mail is really ours")]
    [InlineData("7.25", "the recipient's mail server could not see that the mail is really ours")]
    [InlineData("7.26", "the recipient's mail server could not see that the mail is really ours")]
    public void A_mail_servers_number_is_put_in_words(string detail, string words) =>
        Assert.Equal(words, EnhancedStatus.Explain($"550 5.{detail} <a@b.example>: no"));

    [Theory]
    [InlineData("5.0.0", "the mail server did not say why")]
    [InlineData("550 5.0.0 Not here.", "550 5.0.0 Not here")]
    [InlineData("  ", "no reason was given")]
    [InlineData("550 no.", "550 no")]
    public void Where_the_number_says_nothing_the_servers_words_do(string answer, string words) =>
        Assert.Equal(words, EnhancedStatus.Explain(answer));

    [Theory]
    [InlineData("sailing boat", null)]
    [InlineData("abcdefghij", null)]
    [InlineData("abcdefghi", "password.too-short")]
    [InlineData(null, "password.too-short")]
    [InlineData("ababababcc", "password.too-plain")]
    [InlineData("abcdabcdab", null)]
    [InlineData("ADMINISTRATOR", "password.too-plain")]
    [InlineData("Ines@Tide.example", "password.too-plain")]
    [InlineData("ines calloway", "password.too-plain")]
    public void A_password_is_long_and_not_guessed_at_once(string? password, string? code)
    {
        var no = PasswordRules.Forbids(password, "ines@tide.example", "", "Ines Calloway");
        Assert.Equal((code, code is null ? null : "password"), (no?.Code, no?.Field));
    }

    [Fact]
    public void A_password_has_at_most_so_many_characters()
    {
        var longest = string.Concat(Enumerable.Repeat("abcd", PasswordRules.Longest / 4));
        Assert.Null(PasswordRules.Forbids(longest));
        Assert.Equal("password.too-long", PasswordRules.Forbids(longest + "e")!.Code);
        Assert.Equal("days", TokenRules.End(0, Ship.Now).Refusal!.Field);
    }

    [Fact]
    public void A_domain_is_usual_once_several_are_at_it()
    {
        var listed = new ListedAddresses();
        Assert.Equal(
            [false, false, true, false, false],
            Enumerable.Range(0, 5).Select(n => listed.IsUsual(Ship.At($"a{n}@tide.example")))
        );
        Assert.Null(listed.Note(1, Ship.At("a@tide.example")));
        Assert.Null(listed.Note(1, Ship.At("A@tide.example")));
        Assert.Equal(1, listed.Note(2, Ship.At("A@Tide.example")));
    }

    [Fact]
    public void A_reminder_is_the_next_of_the_schedule_or_none()
    {
        var sent = Ship.Now;
        Assert.Equal(sent.AddDays(7), Next(new[] { 7, 21 }, 8, 0));
        Assert.Equal(sent.AddDays(21), Next(new[] { 7, 21 }, 30, 7));
        Assert.Null(Next(new[] { 7 }, 30, 7));
        // Six hours before the deadline is near enough to be the last call.
        Assert.Equal(sent.AddDays(7), Reminders.Next(sent, [7], sent.AddDays(7).AddHours(6), sent));
        Assert.Null(Reminders.Next(sent, [7, 8], sent.AddDays(7).AddHours(6).AddTicks(-1), sent));

        DateTimeOffset? Next(int[] days, int deadline, int after) =>
            Reminders.Next(sent, days, sent.AddDays(deadline), sent.AddDays(after));
    }
}
