using ComeAboard.Core.Matching;
using Xunit;

namespace ComeAboard.Core.Tests.Matching;

/// <summary>Names in several scripts, with and without their marks, with slips.</summary>
public sealed class FoldedNames
{
    [Theory]
    [InlineData("Müller", "Mueller")]
    [InlineData("Müller", "muller")]
    [InlineData("Søren", "Soeren")]
    [InlineData("Åse", "Aase")]
    [InlineData("Strauß", "Strauss")]
    [InlineData("Łukasz", "Lukasz")]
    [InlineData("Ñuñez", "Nunez")]
    [InlineData("Сергей", "Sergey")]
    [InlineData("Сергей", "Sergei")]
    [InlineData("Михаил", "Mikhail")]
    [InlineData("Щукин", "Shchukin")]
    [InlineData("Юлия", "Yulia")]
    [InlineData("Κώστας", "Kostas")]
    [InlineData("Zoë", "Zoe")]
    [InlineData("O'Brien", "Obrien")]
    [InlineData("Wladimir", "Vladimir")]
    [InlineData("Mu\u0308ller", "Müller")]
    public void Two_ways_of_writing_one_name_are_one(string one, string other) =>
        Assert.Equal(Folding.Fold(one), Folding.Fold(other));

    [Theory]
    [InlineData("Anna", "Hanna")]
    [InlineData("Marta", "Maria")]
    [InlineData("Brask", "Braun")]
    [InlineData("Jan", "Ian ")]
    public void Two_names_stay_two_unless_they_are_written_alike(string one, string other) =>
        Assert.Equal(one == "Jan", Folding.Fold(one) == Folding.Fold(other));

    [Theory]
    [InlineData("brask", "brsak", true)]
    [InlineData("brask", "bras", true)]
    [InlineData("brask", "braskk", true)]
    [InlineData("brask", "brusk", true)]
    [InlineData("brask", "brask", false)]
    [InlineData("brask", "brunk", false)]
    [InlineData("jan", "jon", false)]
    [InlineData("las", "lars", true)]
    [InlineData("", "a", false)]
    public void A_slip_is_one_letter_too_many_too_few_another_or_two_exchanged(
        string one,
        string other,
        bool isSlip
    )
    {
        Assert.Equal(isSlip, Folding.IsOneSlip(one, other));
        Assert.Equal(isSlip, Folding.IsOneSlip(other, one));
    }

    [Fact]
    public void What_is_no_name_at_all_harms_nothing()
    {
        foreach (
            var odd in new[]
            {
                "",
                " ",
                "漢字",
                "😀",
                "....",
                "-",
                ",",
                "Dr.",
                "van der",
                new string('x', 5_000),
            }
        )
        {
            var record = new MatchRecord(
                Name: odd,
                Address: odd,
                Organisation: odd,
                Phone: odd,
                OtherAddresses: odd
            );
            Assert.Empty(
                Matcher.Within([record, new MatchRecord(Name: "Ilse Varga"), new MatchRecord()]).Pairs
            );
        }
    }

    [Theory]
    [InlineData("William", "Bill")]
    [InlineData("Johannes", "Hannes")]
    [InlineData("Francisco", "Paco")]
    [InlineData("Giuseppe", "Beppe")]
    [InlineData("Joaquim", "Quim")]
    [InlineData("Hendrik", "Henk")]
    [InlineData("Lars", "Lasse")]
    [InlineData("Małgorzata", "Gosia")]
    [InlineData("Aleksandr", "Sasha")]
    [InlineData("Frédéric", "Fred")]
    public void Short_forms_of_ten_languages_are_known(string name, string shorter)
    {
        var one = ShortForms.Of(Folding.Fold(name)).ToArray();
        Assert.NotEmpty(one.Intersect(ShortForms.Of(Folding.Fold(shorter)).ToArray()));
    }
}
