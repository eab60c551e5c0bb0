namespace ComeAboard.Core.Matching;

public static partial class ShortForms
{
    // Given names with what they are shortened or changed to, one family of forms in a line; a form may stand in several lines.
    private const string Names = """
        # English
        abigail abby gail
        adelaide adele addie heidi
        albert al bert bertie
        alexander alex alec lex sandy xander sander sasha alik sascha sanya shura aleksander aleksandr alexandre alessandro alejandro ale
        alexandra alex sandra sandy lexi sasha ale alessandra alejandra aleksandra ola ola
        alfred alf alfie fred freddy
        alice ally
        allison allie ali
        amanda mandy
        andrew andy drew
        angela angie
        anna ann annie anne nan nancy anya ania anka anita annika anneke anouk ana
        anthony tony ant
        arthur art artie
        barbara barb babs barbie bobbie basia barbra
        benedict benedikt benedetto benito benoit bene ben benny benno
        benjamin ben benny benji
        bernard bernie bern
        beatrice bea trixie beatriz beatrix
        bridget bridie biddy
        catherine cathy kate katie kitty cat cath katharine katherine kathryn kathy kay kit
        charles charlie chuck chas chaz
        charlotte charlie lottie lotte
        christina chris tina christy krissy christine kirsten kirsty
        christopher chris kit topher kris
        clement clem
        constance connie
        cornelius neil corny kees cor
        cynthia cindy
        daniel dan danny dani
        david dave davy
        deborah deb debbie
        dennis denny
        dominic dom nic
        donald don donnie
        dorothy dot dottie dolly
        edmund ed eddie ned ted
        edward ed eddie ned ted teddy
        edwin ed eddie
        eleanor ellie nell nora lenore nelly
        elizabeth liz lizzie beth betty betsy eliza lisa lise libby bess elsie lilibet bettina elisabeth elsbeth liesl ela elspeth
        ellen nell nellie
        emily em emmy milly
        emma em emmie
        eugene gene
        eva eve evie
        evelyn evie
        ferdinand ferdie nando fernando
        florence flo flossie
        frances fran franny frankie
        francis frank fran
        frederick fred freddie fritz rick frederik
        gabriel gabe
        gabriella gabby ella gabriele
        george georgie
        gerald gerry jerry
        geraldine gerry
        gertrude gert trudy trude gerti
        gilbert gil bert
        gregory greg gregor
        gwendolyn gwen wendy
        harold hal harry
        harriet hattie
        helen nell lena nellie
        henry harry hank hal
        herbert herb bert
        howard howie
        hubert hugh bert
        isabella isabel izzy bella isa belle isabelle
        jacob jake jack
        jacqueline jackie
        james jim jimmy jamie
        jane janie jenny
        janet jan
        jeffrey jeff geoff geoffrey
        jennifer jen jenny jenn
        jeremy jerry jem
        jessica jess jessie
        joan joanie
        joanna jo joanne joan
        john jack johnny jon
        jonathan jon jonny nathan
        joseph joe joey
        josephine jo josie fifi
        joshua josh
        judith judy jude
        julia julie jules
        julian jules
        katrina kat trina
        kenneth ken kenny
        laura laurie
        lawrence larry laurie loz
        leonard len lenny leo
        leopold leo poldi
        leslie les
        lewis lew louie
        lillian lily lil
        louis lou louie
        louise lou lulu
        lucille lucy
        lucy lu
        lynette lyn
        mabel may
        madeleine maddie maddy lena
        magdalena magda lena leni madzia
        malcolm mal
        marcus marc mark
        margaret maggie meg peggy madge marge margie greta daisy rita peg
        maria mary mimi molly polly mia mitzi ria marie marika masha manya maja marisa
        marjorie marge margie
        martha marty mattie
        martin marty
        matilda tilly mattie
        matthew matt matty
        maurice mo
        maximilian max maxi
        maxine max
        megan meg
        melanie mel
        melissa mel lissa missy
        michael mike mick mickey mikey
        michelle shelly
        mildred millie
        miriam mim mimi miri
        mitchell mitch
        montgomery monty
        nathaniel nat nate nathan
        natalie nat nattie
        nicholas nick nicky nico
        nicole nicky nic nikki
        norman norm
        oliver ollie
        olivia liv livvy
        oscar ozzie
        pamela pam
        patricia pat patty trish tricia
        patrick pat paddy
        penelope penny
        peter pete
        philip phil pip
        philippa pippa pip
        phyllis phyl
        prudence prue
        rachel rach
        raymond ray
        rebecca becky becca
        reginald reg reggie
        richard rick dick richie rich ricky
        robert rob bob bobby bert robin robbie
        roberta bobbie
        roderick rod rick
        rodney rod
        roger rodge
        roland rollo roly
        ronald ron ronnie
        rosemary rose rosie
        russell russ
        ruth ruthie
        samantha sam sammy
        samuel sam sammy
        sebastian seb bas basti bastian
        sidney sid
        simon si
        sophia sophie sofia zosia sonja
        stanley stan
        stephanie steph stevie stefanie steffi
        stephen steve stevie steven
        stuart stu
        susan sue susie suzie susanna susannah
        sylvester sly
        theodore ted teddy theo
        theodora theo dora
        theresa terry tess tessa tracy resi terese
        thomas tom tommy
        timothy tim timmy
        tobias toby tobi
        valentine val
        valerie val
        veronica ronnie vera
        victor vic
        victoria vicky tori vic vickie
        vincent vince vinny
        virginia ginny
        vivian viv
        walter walt wally
        wilhelmina mina minnie wilma mien
        wilfred wilf
        william bill billy will willy liam
        winifred winnie freda
        yvonne evie
        zachary zach zack
        # German
        andreas andi andy
        anneliese anne liese anni
        antonia toni
        bernhard bernd hardy
        brigitte gitte gitta biggi
        christian chris
        christoph chris stoffel
        dietrich dieter
        dorothea dorle thea doro
        eberhard ebi hardy
        elfriede elfi friedel
        erich erik
        ernst erni
        franziska franzi sissi
        friedrich fritz friedel fred
        gerhard gerd gert
        gottfried gotti
        guenther gunter
        hannelore hanne lore hanni
        heinrich heinz heiner heini
        helene leni lene
        hermann harm
        hildegard hilde
        ignaz naz
        ilse ilsebill
        jakob jockel jaki
        joachim jochen achim jo
        johanna hanna hanne jo
        johannes hannes hans jo
        josef sepp jupp
        juergen jorg
        karl kalle
        karoline lina line caro
        katharina kathi kaethe trine katja katrin nina
        klaus nikolaus niki
        konrad kurt conny
        lieselotte liselotte lilo lotte
        ludwig lutz wiggerl
        manfred manni fred
        margarete grete gretchen gretel greta margret
        mathilde tilde
        matthias matze hias
        michael michi michel
        notburga burgi
        philipp phil lipp
        reinhard reini
        rosina rosi
        rudolf rudi rolf
        siegfried sigi siggi
        sieglinde sigi linde
        stefan steff
        susanne susi sanne
        theresia resi
        ulrich uli ulli
        ulrike uli rike ulli
        ursula uschi ursel ulla
        volker volki
        waltraud traudl traute
        wilhelm willi wim
        wolfgang wolf wolfi
        # French
        antoine toine
        augustin gus
        bernadette bernie nadette
        christophe chris tophe
        dominique dom
        elisabeth lisette babette
        emmanuel manu
        emmanuelle manu
        francois fanfan
        francoise fanchon
        frederic fred
        guillaume guy willy
        jean jeannot
        jeanne jeannette jeanneton
        mathieu mat
        nicolas nico
        olivier olive
        philippe phil
        sebastien seb
        stephane steph
        therese tete
        valerie val
        veronique vero
        vincent vince
        xavier xav
        # Spanish
        antonio tono toni
        beatriz bea
        carlos carlitos
        concepcion concha conchita
        consuelo chelo
        dolores lola
        eduardo edu lalo
        enrique quique kike
        ernesto neto
        federico fede
        fernando fer nando
        francisco paco pancho curro fran kiko
        gabriel gabi
        graciela chela
        guadalupe lupe lupita
        guillermo guille memo
        ignacio nacho
        isabel isa
        jesus chuy chus
        joaquin quino
        jose pepe
        josefa pepa
        juan juanito
        lucia luci
        luis lucho
        manuel manolo manu
        maria mari
        mercedes merche
        miguel migue
        montserrat montse
        pedro perico
        pilar pili
        rafael rafa
        ramon moncho
        rosario charo
        salvador salva
        santiago santi yago
        sebastian sebas
        teresa tere
        vicente chente
        # Italian
        alberto berto
        antonio tonino toni nino
        caterina rina cate
        domenico mimmo
        elisabetta betta elisa lisa
        emanuele lele
        enrico rico
        federico fede
        filippo pippo
        francesca franca checca
        francesco franco cecco ciccio
        gabriele lele
        giacomo mino
        giancarlo carlo
        giovanni gianni vanni nanni
        giovanna gianna vanna
        giuseppe beppe peppe pino
        giuseppina pina peppa
        lorenzo renzo
        ludovico vico
        luigi gigi gino
        margherita rita
        michele lele
        raffaele lele raffa
        salvatore totò toto
        stefano ste
        vincenzo enzo
        # Portuguese
        afonso fonso
        alexandre xande
        antonio to toninho
        augusto guto
        beatriz bia
        carlos carlinhos
        catarina cata
        conceicao sao
        eduardo edu dudu
        fernando nando
        filipe lipe
        francisco chico xico
        gabriel biel
        guilherme gui
        henrique rique
        isabel bela
        joao joca
        joaquim quim
        jose ze
        leonor nono
        luis lula
        manuel manel maneco
        matilde tilde
        miguel mike
        rafael rafa
        ricardo rica
        roberto beto
        sebastiao tiao
        # Dutch
        adrianus adriaan arie ad
        antonius anton ton toon teun
        bartholomeus bart
        catharina karin trijntje tineke toos
        cornelia corrie nel neeltje
        elisabeth els elly bep liesbeth
        franciscus frans
        gerardus gerard gerrit geert
        gijsbertus gijs bert
        hendrik henk rik
        hendrika rika riek
        hubertus huub bert
        jacobus jaap koos sjaak
        jacoba coba
        johanna jo anneke joke hanneke
        johannes jan hans johan
        joseph jos
        laurentius laurens lau
        lambertus bert lammert
        leonardus leo leen
        margaretha greet griet margriet
        maria riet marijke mieke
        martinus maarten tinus
        mattheus thijs
        matthijs thijs
        nicolaas klaas niek
        petronella nel nelly
        petrus piet pieter
        theodorus dirk theo dorus
        wilhelmus willem wim
        wilhelmina willemijn mien
        # Scandinavian
        anders anden
        birgitta gitta britta gitte
        bjorn nalle
        christen chr
        elisabet lisa lisbet lis
        fredrik fredde
        gustav gosta gurra
        henrik henke
        inger inga
        ingrid inga
        jakob jeppe
        johan janne
        jon jonas
        karin kajsa
        katarina kajsa kaja karin
        kristian kristen
        kristina stina
        lars lasse
        magnus manne mogens
        margareta greta maggan
        mikael micke
        mikkel mik
        nikolaj klaus niels
        niels nils
        nils nisse
        olof olle ola
        per pelle
        rasmus asmus
        sigrid siri
        sten steen
        sven svenne
        torbjorn tobbe
        ulrik ulle
        wilhelm ville helmi
        # Polish
        agnieszka aga jagna agnisia
        aleksandra ola
        andrzej jedrek
        antoni antek
        bartlomiej bartek bartosz
        boguslaw bogus
        czeslaw czesiek
        dorota dorotka
        elzbieta ela elka
        ewa ewka
        franciszek franek
        grzegorz grzesiek
        henryk heniek
        ignacy ignas
        jacek jacus
        jadwiga jadzia
        jakub kuba
        jan janek jas
        jerzy jurek
        joanna asia aska
        jozef jozek
        kamil kamilek
        katarzyna kasia kaska
        kazimierz kazik
        krystyna krysia
        krzysztof krzysiek krzys
        leszek lech
        lukasz lukaszek
        maciej maciek
        malgorzata gosia malgosia gocha
        marcin marcinek
        maria marysia maryla
        mateusz mati
        michal michalek misiek
        mikolaj mikolajek
        mieczyslaw mietek
        pawel pawelek
        piotr piotrek
        ryszard rysiek
        slawomir slawek
        stanislaw staszek stas stach
        stefan stefek
        tadeusz tadek
        teresa terenia
        tomasz tomek
        urszula ula
        wieslaw wiesiek
        wladyslaw wladek
        wojciech wojtek
        zbigniew zbyszek
        zofia zosia zoska
        zygmunt zyga
        # Russian
        aleksandr sasha shura sanya alik
        aleksandra sasha shura sanya
        aleksei alyosha lyosha lesha alexei alexey
        anastasia nastya asya nastia
        anatoly tolya
        andrei andryusha
        anna anya nyura
        arkady arkasha
        boris borya
        daria dasha
        denis deniska
        dmitry dima mitya
        ekaterina katya katyusha yekaterina
        elena lena alyona yelena
        elizaveta liza
        evgeny zhenya
        evgenia zhenya
        fyodor fedya
        galina galya
        gennady gena
        georgy zhora gosha
        grigory grisha
        ilya ilyusha
        inna inka
        ivan vanya
        irina ira irochka
        konstantin kostya
        ksenia ksyusha oksana
        larisa lara
        leonid lyonya
        lev lyova
        lidia lida
        ljubov lyuba
        ludmila lyuda mila
        maksim max maks
        margarita rita
        maria masha marusya
        matvei motya
        mikhail misha
        nadezhda nadya
        natalia natasha nata
        nikita nikitka
        nikolai kolya
        oleg olezhka
        olga olya
        pavel pasha
        pyotr petya
        polina polya
        roman roma
        semyon senya
        sergei seryozha
        sofia sonya
        stanislav slava stas
        stepan styopa
        svetlana sveta lana
        tamara toma
        tatiana tanya
        timofei tima
        vadim vadik
        valentina valya
        valery valera
        vasily vasya
        viktor vitya
        viktoria vika
        vladimir volodya vova
        vladislav vlad
        vsevolod seva
        vyacheslav slava
        yaroslav slava
        yulia yulya
        yuri yura
        zinaida zina
        zoya zoyka
        """;
}
