using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests;

public sealed class LayeredDictionaries
{
    [Fact]
    public void It_holds_what_a_plain_dictionary_holds_and_what_was_before_stays() =>
        Gen.Select(Gen.Int[0, 200], Gen.Select(Gen.Int[0, 250], Gen.Int[0, 3]).Array[0, 400])
            .Sample(
                (size, steps) =>
                {
                    var plain = Enumerable.Range(0, size).ToDictionary(n => n, n => -n);
                    var layered = LayeredDictionary<int, int>.Of(new Dictionary<int, int>(plain));
                    var (early, asItWas) = (layered, plain.OrderBy(p => p.Key).ToList());
                    foreach (var (key, step) in steps)
                    {
                        if (step == 0)
                        {
                            plain.Remove(key);
                            layered = layered.Remove(key);
                        }
                        else
                        {
                            plain[key] = step;
                            layered = layered.SetItem(key, step);
                        }
                        Assert.Equal(
                            plain.TryGetValue(key, out var value),
                            layered.TryGetValue(key, out var found)
                        );
                        Assert.Equal(value, found);
                        Assert.Equal(plain.Count, layered.Count);
                    }
                    Assert.Equal(plain.OrderBy(p => p.Key), layered.OrderBy(p => p.Key));
                    Assert.Equal(plain.Keys.Order(), layered.Keys.Order());
                    Assert.Equal(asItWas, early.OrderBy(p => p.Key));
                },
                iter: Often.Times(500)
            );

    [Fact]
    public void What_is_not_there_is_said_by_name()
    {
        var layered = LayeredDictionary<string, int>.Empty.SetItem("deck", 1).Remove("deck");
        Assert.Empty(layered);
        Assert.Same(layered, layered.Remove("hold"));
        Assert.Contains("deck", Assert.Throws<KeyNotFoundException>(() => layered["deck"]).Message);
    }
}
