import type { Written } from './written.ts';

/** What the pages around a sign-up say by themselves. Written for this product, checked by nobody's standard. */
export interface JoiningWords {
  email: string;
  firstName: string;
  send: string;
  consent: string;
  /** After sending: look into the mailbox. */
  look: string;
  lookText: string;
  confirm: string;
  confirmText: string;
  thanks: string;
  thanksText: string;
  fetch: string;
  missing: string;
  wrong: string;
  wrongEmail: string;
  tooOften: string;
  choose: string;
}

const en: JoiningWords = {
  email: 'Email address',
  firstName: 'First name',
  send: 'Sign up',
  consent: 'I would like to get these emails. I can end them at any time.',
  look: 'Look into your mailbox',
  lookText: 'We have sent you an email. Press the button in it, and you are on the list.',
  confirm: 'One more press',
  confirmText: 'Yes, I signed up',
  thanks: 'You are on the list',
  thanksText: 'Thank you. The first email is on its way.',
  fetch: 'Fetch it here',
  missing: 'Please fill this in.',
  wrong: 'Please write this in another way.',
  wrongEmail: 'Please write an email address, such as marta@example.org.',
  tooOften: 'That was too often. Please try again in a quarter of an hour.',
  choose: 'Please choose',
};
const pt: JoiningWords = {
  email: 'Endereço de email',
  firstName: 'Nome',
  send: 'Inscrever-me',
  consent: 'Quero receber estes emails. Posso deixar de os receber a qualquer momento.',
  look: 'Veja a sua caixa de correio',
  lookText: 'Enviámos-lhe um email. Carregue no botão que está nele e fica na lista.',
  confirm: 'Só falta um passo',
  confirmText: 'Sim, inscrevi-me',
  thanks: 'Está na lista',
  thanksText: 'Obrigado. O primeiro email vai a caminho.',
  fetch: 'Descarregar aqui',
  missing: 'Preencha este campo.',
  wrong: 'Escreva isto de outra forma.',
  wrongEmail: 'Escreva um endereço de email, como marta@example.org.',
  tooOften: 'Demasiadas tentativas. Tente de novo daqui a um quarto de hora.',
  choose: 'Escolha',
};

export const joiningWords: Readonly<Record<Written, JoiningWords>> = {
  en,
  'en-GB': en,
  'en-US': en,
  'pt-PT': pt,
  'pt-BR': {
    ...pt,
    email: 'Endereço de e-mail',
    consent: 'Quero receber estes e-mails. Posso deixar de recebê-los a qualquer momento.',
    look: 'Veja sua caixa de entrada',
    lookText: 'Enviamos um e-mail para você. Clique no botão dele e você estará na lista.',
    thanks: 'Você está na lista',
    thanksText: 'Obrigado. O primeiro e-mail está a caminho.',
    fetch: 'Baixar aqui',
    missing: 'Preencha este campo.',
    wrongEmail: 'Escreva um endereço de e-mail, como marta@example.org.',
    tooOften: 'Muitas tentativas. Tente de novo daqui a quinze minutos.',
  },
  es: {
    email: 'Correo electrónico',
    firstName: 'Nombre',
    send: 'Apuntarme',
    consent: 'Quiero recibir estos correos. Puedo dejar de recibirlos en cualquier momento.',
    look: 'Mira tu correo',
    lookText: 'Te hemos enviado un correo. Pulsa el botón que lleva y estarás en la lista.',
    confirm: 'Solo falta un paso',
    confirmText: 'Sí, me he apuntado',
    thanks: 'Ya estás en la lista',
    thanksText: 'Gracias. El primer correo está en camino.',
    fetch: 'Descárgalo aquí',
    missing: 'Rellena este campo.',
    wrong: 'Escríbelo de otra manera.',
    wrongEmail: 'Escribe una dirección de correo, como marta@example.org.',
    tooOften: 'Demasiados intentos. Vuelve a probar dentro de un cuarto de hora.',
    choose: 'Elige',
  },
  fr: {
    email: 'Adresse e-mail',
    firstName: 'Prénom',
    send: 'Je m’inscris',
    consent: 'Je souhaite recevoir ces e-mails. Je peux y mettre fin à tout moment.',
    look: 'Regardez votre boîte de réception',
    lookText: 'Nous vous avons envoyé un e-mail. Appuyez sur le bouton qu’il contient et vous serez sur la liste.',
    confirm: 'Encore une étape',
    confirmText: 'Oui, je me suis inscrit',
    thanks: 'Vous êtes sur la liste',
    thanksText: 'Merci. Le premier e-mail est en route.',
    fetch: 'Télécharger ici',
    missing: 'Remplissez ce champ.',
    wrong: 'Écrivez-le autrement.',
    wrongEmail: 'Écrivez une adresse e-mail, comme marta@example.org.',
    tooOften: 'Trop de tentatives. Réessayez dans un quart d’heure.',
    choose: 'Choisissez',
  },
  de: {
    email: 'E-Mail-Adresse',
    firstName: 'Vorname',
    send: 'Anmelden',
    consent: 'Ich möchte diese E-Mails bekommen. Ich kann sie jederzeit beenden.',
    look: 'Schauen Sie in Ihr Postfach',
    lookText: 'Wir haben Ihnen eine E-Mail geschickt. Drücken Sie auf den Knopf darin, und Sie stehen auf der Liste.',
    confirm: 'Noch ein Klick',
    confirmText: 'Ja, ich habe mich angemeldet',
    thanks: 'Sie stehen auf der Liste',
    thanksText: 'Vielen Dank. Die erste E-Mail ist unterwegs.',
    fetch: 'Hier herunterladen',
    missing: 'Bitte füllen Sie dieses Feld aus.',
    wrong: 'Bitte schreiben Sie das anders.',
    wrongEmail: 'Bitte schreiben Sie eine E-Mail-Adresse, etwa marta@example.org.',
    tooOften: 'Das war zu oft. Bitte versuchen Sie es in einer Viertelstunde noch einmal.',
    choose: 'Bitte wählen',
  },
  it: {
    email: 'Indirizzo email',
    firstName: 'Nome',
    send: 'Iscrivimi',
    consent: 'Vorrei ricevere queste email. Posso interromperle in qualsiasi momento.',
    look: 'Guarda nella tua casella',
    lookText: 'Ti abbiamo mandato un’email. Premi il pulsante che contiene e sarai nella lista.',
    confirm: 'Ancora un passo',
    confirmText: 'Sì, mi sono iscritto',
    thanks: 'Sei nella lista',
    thanksText: 'Grazie. La prima email è in arrivo.',
    fetch: 'Scaricalo qui',
    missing: 'Compila questo campo.',
    wrong: 'Scrivilo in un altro modo.',
    wrongEmail: 'Scrivi un indirizzo email, come marta@example.org.',
    tooOften: 'Troppi tentativi. Riprova tra un quarto d’ora.',
    choose: 'Scegli',
  },
  nl: {
    email: 'E-mailadres',
    firstName: 'Voornaam',
    send: 'Aanmelden',
    consent: 'Ik wil deze e-mails krijgen. Ik kan er op elk moment mee stoppen.',
    look: 'Kijk in je mailbox',
    lookText: 'We hebben je een e-mail gestuurd. Druk op de knop daarin en je staat op de lijst.',
    confirm: 'Nog één stap',
    confirmText: 'Ja, ik heb me aangemeld',
    thanks: 'Je staat op de lijst',
    thanksText: 'Dank je wel. De eerste e-mail is onderweg.',
    fetch: 'Hier downloaden',
    missing: 'Vul dit in.',
    wrong: 'Schrijf dit anders.',
    wrongEmail: 'Schrijf een e-mailadres, zoals marta@example.org.',
    tooOften: 'Dat was te vaak. Probeer het over een kwartier opnieuw.',
    choose: 'Kies',
  },
  pl: {
    email: 'Adres e-mail',
    firstName: 'Imię',
    send: 'Zapisz mnie',
    consent: 'Chcę otrzymywać te wiadomości. Mogę z nich zrezygnować w każdej chwili.',
    look: 'Zajrzyj do skrzynki',
    lookText: 'Wysłaliśmy wiadomość. Naciśnij w niej przycisk, a znajdziesz się na liście.',
    confirm: 'Jeszcze jeden krok',
    confirmText: 'Tak, to moje zgłoszenie',
    thanks: 'Jesteś na liście',
    thanksText: 'Dziękujemy. Pierwsza wiadomość jest w drodze.',
    fetch: 'Pobierz tutaj',
    missing: 'Wypełnij to pole.',
    wrong: 'Napisz to inaczej.',
    wrongEmail: 'Wpisz adres e-mail, na przykład marta@example.org.',
    tooOften: 'Zbyt wiele prób. Spróbuj ponownie za kwadrans.',
    choose: 'Wybierz',
  },
  sv: {
    email: 'E-postadress',
    firstName: 'Förnamn',
    send: 'Anmäl mig',
    consent: 'Jag vill få de här mejlen. Jag kan avsluta dem när som helst.',
    look: 'Titta i din inkorg',
    lookText: 'Vi har skickat ett mejl till dig. Tryck på knappen i det, så är du med på listan.',
    confirm: 'Ett steg till',
    confirmText: 'Ja, jag har anmält mig',
    thanks: 'Du är med på listan',
    thanksText: 'Tack. Det första mejlet är på väg.',
    fetch: 'Hämta den här',
    missing: 'Fyll i det här.',
    wrong: 'Skriv det på ett annat sätt.',
    wrongEmail: 'Skriv en e-postadress, till exempel marta@example.org.',
    tooOften: 'Det var för ofta. Försök igen om en kvart.',
    choose: 'Välj',
  },
  da: {
    email: 'E-mailadresse',
    firstName: 'Fornavn',
    send: 'Tilmeld mig',
    consent: 'Jeg vil gerne have disse mails. Jeg kan stoppe dem når som helst.',
    look: 'Kig i din indbakke',
    lookText: 'Vi har sendt dig en mail. Tryk på knappen i den, så er du på listen.',
    confirm: 'Et skridt mere',
    confirmText: 'Ja, jeg har tilmeldt mig',
    thanks: 'Du er på listen',
    thanksText: 'Tak. Den første mail er på vej.',
    fetch: 'Hent den her',
    missing: 'Udfyld dette felt.',
    wrong: 'Skriv det på en anden måde.',
    wrongEmail: 'Skriv en e-mailadresse, for eksempel marta@example.org.',
    tooOften: 'Det var for ofte. Prøv igen om et kvarter.',
    choose: 'Vælg',
  },
};

/** Words of a confirmation email. */
export interface ConfirmationWords {
  subject: string;
  /** Before the name, behind it, and what stands for a name that is not known. */
  greeting: [string, string, string];
  text: string;
  button: string;
  ignore: string;
}

/** What a confirmation email begins with; everything in it can be changed. */
export function confirmationWords(language: Written, form: string): ConfirmationWords {
  const of = CONFIRMATIONS[language.slice(0, 2)] ?? CONFIRMATIONS['en'];
  return of?.(form) as ConfirmationWords;
}

const CONFIRMATIONS: Readonly<Record<string, (form: string) => ConfirmationWords>> = {
  en: (form) => ({
    subject: 'Is this your address?',
    greeting: ['Hello ', ',', 'reader'],
    text: `you signed up for ${form}. Press the button, and it is on its way.`,
    button: 'Yes, this is my address',
    ignore: 'If that was not you, do nothing: no other email will come.',
  }),
  pt: (form) => ({
    subject: 'Este endereço é seu?',
    greeting: ['Olá ', ',', 'leitor'],
    text: `inscreveu-se em ${form}. Carregue no botão, e vai a caminho.`,
    button: 'Sim, este endereço é meu',
    ignore: 'Se não foi a pessoa que se inscreveu, não faça nada: não receberá mais nenhum email.',
  }),
  es: (form) => ({
    subject: '¿Es esta tu dirección?',
    greeting: ['Hola, ', ':', 'lector'],
    text: `te has apuntado a ${form}. Pulsa el botón y saldrá para ti.`,
    button: 'Sí, es mi dirección',
    ignore: 'Si no has sido tú, no hagas nada: no llegará ningún otro correo.',
  }),
  fr: (form) => ({
    subject: 'Est-ce bien votre adresse ?',
    greeting: ['Bonjour ', ',', 'à vous'],
    text: `vous vous êtes inscrit à ${form}. Appuyez sur le bouton, et c’est parti.`,
    button: 'Oui, c’est mon adresse',
    ignore: 'Si ce n’était pas vous, ne faites rien : aucun autre e-mail ne viendra.',
  }),
  de: (form) => ({
    subject: 'Ist das Ihre Adresse?',
    greeting: ['Guten Tag ', ',', 'und willkommen'],
    text: `Sie haben sich für ${form} angemeldet. Drücken Sie auf den Knopf, dann geht es los.`,
    button: 'Ja, das ist meine Adresse',
    ignore: 'Waren Sie das nicht, dann tun Sie nichts: Es kommt keine weitere E-Mail.',
  }),
  it: (form) => ({
    subject: 'È il tuo indirizzo?',
    greeting: ['Ciao ', ',', 'e benvenuto'],
    text: `ti sei iscritto a ${form}. Premi il pulsante, e si parte.`,
    button: 'Sì, è il mio indirizzo',
    ignore: 'Se non eri tu, non fare nulla: non arriverà nessun’altra email.',
  }),
  nl: (form) => ({
    subject: 'Is dit je adres?',
    greeting: ['Hallo ', ',', 'lezer'],
    text: `je hebt je aangemeld voor ${form}. Druk op de knop, dan komt het eraan.`,
    button: 'Ja, dit is mijn adres',
    ignore: 'Was jij dat niet, doe dan niets: er komt geen andere e-mail.',
  }),
  pl: (form) => ({
    subject: 'Czy to Twój adres?',
    greeting: ['Dzień dobry ', ',', 'i witamy'],
    text: `otrzymaliśmy Twoje zgłoszenie: ${form}. Naciśnij przycisk, a zaczynamy.`,
    button: 'Tak, to mój adres',
    ignore: 'Jeśli to nie Ty, nic nie rób: nie przyjdzie żadna inna wiadomość.',
  }),
  sv: (form) => ({
    subject: 'Är det här din adress?',
    greeting: ['Hej ', ',', 'läsare'],
    text: `du har anmält dig till ${form}. Tryck på knappen, så är det på väg.`,
    button: 'Ja, det är min adress',
    ignore: 'Var det inte du, gör ingenting: det kommer inget mer mejl.',
  }),
  da: (form) => ({
    subject: 'Er det din adresse?',
    greeting: ['Hej ', ',', 'læser'],
    text: `du har tilmeldt dig ${form}. Tryk på knappen, så er det på vej.`,
    button: 'Ja, det er min adresse',
    ignore: 'Var det ikke dig, så gør ingenting: der kommer ikke flere mails.',
  }),
};

const SUBJECTS: Readonly<Record<string, (form: string) => readonly string[]>> = {
  en: (form) => ['Is this your address?', 'One press, and it is on its way', `${form}: was that you?`],
  pt: (form) => ['Este endereço é seu?', 'Só falta carregar no botão', `${form}: foi a pessoa que pediu?`],
  es: (form) => ['¿Es esta tu dirección?', 'Solo falta pulsar el botón', `${form}: ¿has sido tú?`],
  fr: (form) => ['Est-ce bien votre adresse ?', 'Plus qu’un bouton à presser', `${form} : était-ce vous ?`],
  de: (form) => ['Ist das Ihre Adresse?', 'Nur noch ein Knopf', `${form}: Waren Sie das?`],
  it: (form) => ['È il tuo indirizzo?', 'Manca solo un pulsante', `${form}: sei stato tu?`],
  nl: (form) => ['Is dit je adres?', 'Nog één knop', `${form}: was jij dat?`],
  pl: (form) => ['Czy to Twój adres?', 'Jeszcze tylko jeden przycisk', `${form}: czy to Ty?`],
  sv: (form) => ['Är det här din adress?', 'Bara en knapp kvar', `${form}: var det du?`],
  da: (form) => ['Er det din adresse?', 'Kun en knap tilbage', `${form}: var det dig?`],
};

/** Subjects of a confirmation email that are ready to be chosen; the first is what it begins with. */
export const confirmationSubjects = (language: Written, form: string): readonly string[] =>
  SUBJECTS[language.slice(0, 2)]?.(form) ?? [];
