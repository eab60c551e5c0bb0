using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests;

/// <summary>How a house likes names to be written: read, checked, offered.</summary>
public sealed class NamesByStandard
{
    [Theory]
    [InlineData("{name}")]
    [InlineData("{name} ({organisation})")]
    [InlineData("{organisation} · {name}, {kind}")]
    [InlineData(" {name} ")]
    [InlineData("")]
    [InlineData(null)]
    public void Patterns_with_one_name_are_read(string? text) =>
        Assert.Equal(text?.Trim() ?? "", NamingStandard.Read(text).Value.Pattern);

    [Theory]
    [InlineData("({organisation})")]
    [InlineData("{name} {name}")]
    [InlineData("{name} {title}")]
    [InlineData("{name} {")]
    [InlineData("{name} see harbour.example")]
    [InlineData("{name}\n{kind}")]
    public void Others_are_refused(string text)
    {
        var refusal = NamingStandard.Read(text).Refusal;
        Assert.Equal(("rules.name-pattern", "outsiderNames"), (refusal?.Code, refusal?.Field));
    }

    [Theory]
    [InlineData("Ines", "Saltmarsh", Kind.Guest, "Ines (Saltmarsh)")]
    [InlineData("Ines (Saltmarsh)", "Saltmarsh", Kind.Guest, null)]
    [InlineData("Ines (Other)", "Saltmarsh", Kind.Partner, "Ines (Other) (Saltmarsh)")]
    [InlineData("Ines", "", Kind.Guest, null)]
    [InlineData("", "Saltmarsh", Kind.Guest, null)]
    [InlineData("Mira", "Saltmarsh", Kind.Staff, null)]
    [InlineData("Ines", "Saltmarsh.example", Kind.Guest, null)]
    public void A_name_is_offered_where_it_does_not_follow(
        string name,
        string organisation,
        Kind kind,
        string? offered
    ) =>
        Assert.Equal(
            offered,
            NamingStandard.Read("{name} ({organisation})").Value.Offer(name, organisation, kind)
        );

    [Fact]
    public void Without_a_standard_nothing_is_offered() =>
        Assert.Null(new NamingStandard("").Offer("Ines", "Saltmarsh", Kind.Guest));

    [Fact]
    public void What_is_offered_follows_and_is_offered_no_more() =>
        (
            from name in Gen.Char.AlphaNumeric.Array[1, 20]
            from organisation in Gen.Char.AlphaNumeric.Array[0, 20]
            from pattern in Gen.OneOf<string>(
                "{name}",
                "{kind} {name}",
                "{name} ({organisation})",
                "{organisation}: {name} – {kind}"
            )
            from kind in Gen.Int[0, Kinds.All.Count - 1].Select(at => Kinds.All[at])
            select (new string(name), new string(organisation), pattern, kind)
        ).Sample(
            (name, organisation, pattern, kind) =>
            {
                var standard = NamingStandard.Read(pattern).Value;
                var offered = standard.Offer(name, organisation, kind);
                var written = pattern
                    .Replace("{name}", name, StringComparison.Ordinal)
                    .Replace("{organisation}", organisation, StringComparison.Ordinal)
                    .Replace("{kind}", kind.Word(), StringComparison.Ordinal);
                var isWanted =
                    kind != Kind.Staff
                    && (
                        organisation.Length > 0 || !pattern.Contains("organisation", StringComparison.Ordinal)
                    );
                if (offered is null)
                    // Nothing is wanted, or it is written so already.
                    Assert.True(!isWanted || pattern == "{name}");
                else
                {
                    Assert.True(isWanted);
                    Assert.Equal(written, offered);
                    Assert.Null(standard.Offer(offered, organisation, kind));
                }
            }
        );
}
